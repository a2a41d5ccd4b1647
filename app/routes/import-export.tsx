import { Outlet } from "react-router";
import { PageTabs } from "../features/frame/page-tabs.tsx";

export const handle = { stage: "import" };

const tabs = [
  { page: "import", text: "Import" },
  { page: "topology", text: "Topology from a route table" },
  { page: "polling", text: "Polling" },
  { page: "drift", text: "Drift" },
  { page: "export", text: "Export" },
] as const;

export default function ImportExportLayout() {
  return (
    <div className="flex min-h-0 flex-1 flex-col overflow-auto px-4 py-3">
      <PageTabs title="Import & export" tabs={tabs} />
      <Outlet />
    </div>
  );
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
