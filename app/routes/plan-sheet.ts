import { permit } from "../../server/access/permit.ts";
import { headOf } from "../../server/plans.ts";
import { notFound, planSheetOf } from "../engine/page.server.ts";
import type { Route } from "./+types/plan-sheet";

/** A plan's overview on its card in the list of plans. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const head = await headOf(permit(request, params.plan, "reads"));
  if (!head) notFound("There is no such plan.");
  return Response.json(await planSheetOf(head.id, head.revision));
}
