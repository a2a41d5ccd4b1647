import { actorOf, roleOf } from "../../server/access/actor.ts";
import { headOf, undoState } from "../../server/plans.ts";
import { visitorOf } from "../../server/session.ts";
import { notFound } from "../engine/page.server.ts";
import type { Route } from "./+types/head";

/** Where the plan stands, for an open page that looks whether it has moved on. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const [visitor, head] = await Promise.all([visitorOf(request), headOf(params.plan)]);
  if (!head) notFound("There is no such plan.");
  const undo = await undoState(params.plan, visitor.session);
  return Response.json({
    planId: head.id,
    revision: head.revision,
    newest: head.revision,
    approved: head.approved,
    visitor: visitor.name,
    role: roleOf(actorOf(request), params.plan),
    shared: actorOf(request) !== null,
    ...undo,
  });
}
