import { stageOf } from "../../core/plan/index.ts";
import { permit } from "../../server/access/permit.ts";
import { headOf } from "../../server/plans.ts";
import { revisionIn } from "../engine/bodies.server.ts";
import { drawingOf, notFound } from "../engine/page.server.ts";
import { openedIn } from "../search/opened.ts";
import type { Route } from "./+types/layout";

/** The drawing of a plan's revision. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const plan = permit(request, params.plan, "reads");
  const head = await headOf(plan);
  const { searchParams } = new URL(request.url);
  const wanted = searchParams.get("revision");
  const revision = wanted === null ? (head?.revision ?? null) : revisionIn(wanted);
  if (!head || revision === null || (revision > head.revision && !stageOf(revision)))
    notFound("There is no such plan or revision.");
  return Response.json(await drawingOf(plan, revision, openedIn(searchParams)));
}
