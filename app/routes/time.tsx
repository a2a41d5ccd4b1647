import { TimeView } from "../features/outages/time-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/time";

export const handle = { stage: "outages" };

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Outage in time", matches);
}

export default TimeView;

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
