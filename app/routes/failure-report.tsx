import { ReportView } from "../features/outages/report-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/failure-report";

export const handle = { stage: "failures" };

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Failure report", matches);
}

export default ReportView;

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
