import { NavLink } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import { pageHref } from "../../search/links.ts";
import type { PageName } from "../../search/pages.ts";

interface PageTabsProps {
  title: string;
  tabs: readonly { page: PageName; text: string }[];
}

/** The title of a section with the tabs of its pages. */
export function PageTabs({ title, tabs }: PageTabsProps) {
  const { planId, params } = usePlan();
  return (
    <div className="flex flex-wrap items-baseline gap-x-5 border-rule border-b print:hidden">
      <h1 className="font-semibold font-sign text-[26px]">{title}</h1>
      <nav aria-label={`Pages of ${title}`} className="flex flex-wrap gap-1">
        {tabs.map(({ page, text }) => (
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
  );
}
