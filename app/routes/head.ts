import { actorOf, isShared, roleOf } from "../../server/access/actor.ts";
import { permit } from "../../server/access/permit.ts";
import { headOf, undoState } from "../../server/plans.ts";
import { visitorOf } from "../../server/session.ts";
import { notFound } from "../engine/page.server.ts";
import type { Route } from "./+types/head";

/** The plan's head: open pages poll it for changes. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const plan = permit(request, params.plan, "reads");
  const [visitor, head] = await Promise.all([visitorOf(request), headOf(plan)]);
  if (!head) notFound("There is no such plan.");
  const undo = await undoState(plan, visitor.session);
  return Response.json({
    planId: head.id,
    revision: head.revision,
    newest: head.revision,
    approved: head.approved,
    visitor: visitor.name,
    role: roleOf(actorOf(request), plan),
    shared: isShared(request),
    ...undo,
  });
}
