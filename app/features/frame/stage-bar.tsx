import { useQuery } from "@tanstack/react-query";
import { Link, useLocation } from "react-router";
import type { Stage } from "../../../core/plan/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { plainText } from "../../plan/sentence-parts.ts";
import { withParam } from "../../search/links.ts";

interface StageNotice {
  visits: { steps: { texts: { sentence: string } }[] }[];
}

/** Which moment of a change the page shows: the plan as it stands after a step, with the steps before and after it. */
export function StageBar({ stage: { change, steps, byTicks } }: { stage: Stage }) {
  const { planId, params, labels } = usePlan();
  const { pathname } = useLocation();
  const { data } = useQuery({
    queryKey: ["change", planId, change],
    queryFn: async (): Promise<StageNotice> => {
      const response = await fetch(`/plans/${planId}/changes/${change}/out?as=json`);
      if (!response.ok) throw new Error(`the change could not be loaded (${response.status})`);
      const { runbook } = await response.json();
      return { visits: runbook.visits };
    },
  });
  const all = data?.visits.flatMap((visit) => visit.steps) ?? [];
  const at = (n: number) => `${pathname}${withParam(params, "after", `${change}.${n}`)}`;
  const sentence = byTicks ? null : all[steps - 1]?.texts.sentence;
  return (
    <section aria-label="Step through the change" className="flex min-w-0 items-center gap-x-3">
      <Link className="name-link whitespace-nowrap font-medium" to={`/plans/${planId}/changes/${change}`}>
        Change {change}
      </Link>
      {!byTicks && (
        <div className="flex items-center gap-1">
          {steps > 0 ? (
            <Link className="button" to={at(steps - 1)} replace>
              Back
            </Link>
          ) : (
            <span className="button opacity-50">Back</span>
          )}
          {steps < all.length ? (
            <Link className="button" to={at(steps + 1)} replace>
              Next
            </Link>
          ) : (
            <span className="button opacity-50">Next</span>
          )}
        </div>
      )}
      <p role="status" data-testid="stage" className="min-w-0 max-w-[340px] truncate">
        <strong>
          {byTicks
            ? "with the steps done so far"
            : `${steps === 0 ? "before step 1" : `after step ${steps}`}${all.length > 0 ? ` of ${all.length}` : ""}`}
        </strong>
        {sentence && <span className="text-ink-2"> {plainText(sentence, labels)}</span>}
      </p>
      <Link
        className="name-link whitespace-nowrap text-ink-2"
        to={`${pathname}${withParam(params, "after", null)}`}
      >
        Leave
      </Link>
    </section>
  );
}
