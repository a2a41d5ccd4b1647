import { useNavigate } from "react-router";
import type { Outage, Plan, Watch } from "../../../core/plan/index.ts";
import { boundsText } from "../../../core/words/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { TimelineAnswer } from "../../queries/asks.ts";
import { withParam } from "../../search/links.ts";
import { Pick } from "../../ui/select.tsx";
import { lastDrawn } from "./segments.ts";
import { TimeChart } from "./time-chart.tsx";

/** One of two runs that stand side by side. */
export interface Run {
  title: string;
  report: TimelineAnswer;
  healMs: number | null;
}

/** The word by which an address asks for the approved revision beside the draft. */
export const APPROVED = "approved";

/** Selects the comparison: another saved outage, or the same outage before the draft. */
export function BesideChoice({
  outages,
  beside,
  own,
  drafted,
}: {
  outages: readonly Outage[];
  beside: string;
  /** The displayed outage, "" if it is not saved. */
  own: string;
  drafted: boolean;
}) {
  const others = outages.filter((entry) => entry.id !== own);
  const { params } = usePlan();
  const navigate = useNavigate();
  if (others.length === 0 && !drafted) return null;
  return (
    <div className="mt-2 flex items-end gap-2">
      <div className="flex flex-col">
        <label htmlFor="time-beside" className="text-[13px] text-ink-2">
          Compare with
        </label>
        <Pick
          id="time-beside"
          value={beside}
          onChange={(next) => void navigate(withParam(params, "beside", next || null))}
          choices={[
            { value: "", label: "no comparison" },
            ...(drafted ? [{ value: APPROVED, label: "same outage before the draft" }] : []),
            ...others.map((entry) => ({ value: `outage:${entry.id}`, label: entry.label ?? entry.id })),
          ]}
        />
      </div>
    </div>
  );
}

/** Two runs over one scale, and the flows whose gap differs between them. */
export function SideBySide({
  runs,
  watches,
}: {
  runs: readonly [Run, Run];
  watches: ReadonlyMap<string, Watch>;
}) {
  const ends = runs.map(({ report, healMs }) => Math.max(healMs ?? 0, lastDrawn(report)));
  const endMs = Math.max(...ends) * 1.1;
  return (
    <>
      <GapChanges title="Differing outage times" before={runs[1].report} after={runs[0].report} />
      <div className="mt-3 grid gap-x-4 xl:grid-cols-2" data-testid="side-by-side">
        {runs.map((run) => (
          <section key={run.title} aria-label={run.title} className="min-w-0">
            <h2 className="font-semibold font-sign text-[18px]">{run.title}</h2>
            <TimeChart report={run.report} watches={watches} healMs={run.healMs} endMs={endMs} />
          </section>
        ))}
      </div>
    </>
  );
}

/** The flows whose gap differs between two runs of an outage. */
export function GapChanges({
  title,
  before,
  after,
}: {
  title: string;
  before: TimelineAnswer;
  after: TimelineAnswer;
}) {
  const { frame } = usePlan();
  const changed = after.flows.flatMap((flow) => {
    const old = before.flows.find((entry) => entry.id === flow.id);
    if (!old) return [];
    const [was, now] = [boundsText(old.outageMs) || "none", boundsText(flow.outageMs) || "none"];
    return was === now ? [] : [{ id: flow.id, was, now }];
  });
  return (
    <section aria-label={title} className="mt-2">
      <h2 className="text-[13px] text-ink-2">{title}</h2>
      {changed.length === 0 && <p>No differences.</p>}
      <ul>
        {changed.map(({ id, was, now }) => (
          <li key={id}>
            <span className="font-medium">{frame.flows.find((flow) => flow.id === id)?.label ?? id}:</span>{" "}
            {was} → <strong>{now}</strong>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Every watch of a plan by "device/watch". */
export function watchesOf(plan: Plan): Map<string, Watch> {
  return new Map(
    plan.devices.flatMap((device) =>
      device.watches.map((watch): [string, Watch] => [`${device.id}/${watch.id}`, watch]),
    ),
  );
}
