import { documentOf, headOf } from "../../server/plans.ts";
import { notFound } from "../data/page.server.ts";
import { layoutOf } from "../drawing/layout.server.ts";
import type { Route } from "./+types/layout";

/** The drawing of a plan's revision. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const head = await headOf(params.plan);
  const revision = Number(new URL(request.url).searchParams.get("revision") ?? head?.revision);
  const plan = head && Number.isInteger(revision) ? await documentOf(params.plan, revision) : null;
  if (!plan) notFound("There is no such plan or revision.");
  return Response.json(await layoutOf(plan));
}
