import { headOf } from "../../server/plans.ts";
import { notFound, planSheetOf } from "../engine/page.server.ts";
import type { Route } from "./+types/plan-sheet";

/** A plan at a glance, for its card in the list of plans. */
export async function loader({ params }: Route.LoaderArgs) {
  const head = await headOf(params.plan);
  if (!head) notFound("There is no such plan.");
  return planSheetOf(head.id, head.revision);
}

/** A revision's sheet never changes: whatever else happens on the page, it is not asked for again. */
export function shouldRevalidate() {
  return false;
}

/** A card that cannot be filled says so; the list stays. */
export async function clientLoader({ serverLoader }: Route.ClientLoaderArgs) {
  try {
    return await serverLoader();
  } catch {
    return { failed: true as const };
  }
}
