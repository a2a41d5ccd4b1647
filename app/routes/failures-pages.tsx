import { Outlet } from "react-router";
import { PageTabs } from "../features/frame/page-tabs.tsx";

export const handle = { stage: "failures" };

const tabs = [
  { page: "failures", text: "Failure matrix" },
  { page: "timeline", text: "Outage timeline" },
  { page: "failure-report", text: "Failure report" },
] as const;

export default function FailuresLayout() {
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="px-4 pt-3">
        <PageTabs title="Failures" tabs={tabs} />
      </div>
      <Outlet />
    </div>
  );
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
