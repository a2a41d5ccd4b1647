import { ReportView } from "../features/outages/report-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/report";

export const handle = { stage: "outages" };

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("What happens when", matches);
}

export default ReportView;

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
