import { NavLink, Outlet } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import { pageHref } from "../../search/links.ts";
import type { PageName } from "../../search/pages.ts";

const parts: readonly { page: PageName; text: string }[] = [
  { page: "import", text: "Import" },
  { page: "topology", text: "Topology from a route table" },
  { page: "polling", text: "Polling" },
  { page: "drift", text: "Drift" },
  { page: "export", text: "Export" },
];

/** How a network comes in and goes out: by files, by asking devices; where they differ from the plan; and out. */
export function ExchangeTabs() {
  const { planId, params } = usePlan();
  return (
    <div className="flex min-h-0 flex-1 flex-col overflow-auto px-4 py-3">
      <div className="flex flex-wrap items-baseline gap-x-5 border-rule border-b">
        <h1 className="font-semibold font-sign text-[26px]">Import &amp; export</h1>
        <nav aria-label="Import and export" className="flex gap-1">
          {parts.map(({ page, text }) => (
            <NavLink
              key={page}
              to={pageHref(planId, page, params)}
              end
              className={({ isActive }) =>
                `-mb-px border-b-2 px-2 py-1 ${isActive ? "border-ink font-semibold" : "border-transparent text-ink-2"}`
              }
            >
              {text}
            </NavLink>
          ))}
        </nav>
      </div>
      <Outlet />
    </div>
  );
}
