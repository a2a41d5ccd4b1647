import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import type { ReadingNotice } from "../../routes/reading-notices.ts";
import { pageHref } from "../../search/links.ts";

/** Devices that are named at most. */
const MOST = 12;

/** Problems with device readings: the plan is only as good as the readings of the network. */
export function ReadingNotices() {
  const { planId, params, labels } = usePlan();
  const { data: notices = [] } = useQuery({
    queryKey: ["reading notices", planId],
    queryFn: async (): Promise<ReadingNotice[]> => {
      const response = await fetch(`/plans/${planId}/reading-notices`);
      if (!response.ok) throw new Error(`polling problems could not be loaded (${response.status})`);
      return response.json();
    },
    staleTime: 5_000,
  });
  if (notices.length === 0) return null;
  return (
    <section aria-label="Differences from the devices" className="mt-5">
      <h2 className="font-semibold font-sign text-[20px]">
        Plan and devices differ
        <span className="pl-2 font-normal font-word text-[14px] text-ink-2">
          predictions apply to the plan only
        </span>
      </h2>
      <ul>
        {notices.slice(0, MOST).map(({ device, kind, text }) => (
          <li key={`${device} ${kind}`} data-notice={kind} className="border-rule border-t py-1">
            <span className="font-medium">{labels.devices.get(device) ?? device}</span> {text}.{" "}
            <Link
              className="name-link"
              to={pageHref(planId, kind === "differs" ? "drift" : "polling", params)}
            >
              {kind === "differs" ? "Show differences" : "Show readings"}
            </Link>
          </li>
        ))}
        {notices.length > MOST && <li className="text-ink-2">and {notices.length - MOST} more</li>}
      </ul>
    </section>
  );
}
