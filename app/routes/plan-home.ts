import { redirect } from "react-router";
import type { Route } from "./+types/plan-home";

export function loader({ params }: Route.LoaderArgs) {
  return redirect(`/plans/${params.plan}/map`);
}
