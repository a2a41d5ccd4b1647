import { TimeView } from "../features/outages/time-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/timeline";

export const handle = { stage: "failures" };

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Outage timeline", matches);
}

export default TimeView;

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
