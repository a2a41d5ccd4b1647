import { useMemo } from "react";
import type { Edit, Outage, Plan, Watch } from "../../../core/plan/index.ts";
import type { useEditing } from "../../plan/editing.ts";
import { LinkedSentence } from "../../plan/linked-sentence.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { elementLabel, type Labels } from "../../plan/sentence-parts.ts";
import type { TimelineAnswer } from "../../queries/asks.ts";
import { APPROVED, BesideChoice, GapChanges, SideBySide, watchesOf } from "./beside.tsx";
import { Knobs } from "./knobs.tsx";
import { TimeChart } from "./time-chart.tsx";
import { turnablesOf } from "./turnables.ts";
import type { ObservedFlow } from "./use-observed.ts";

interface RunViewProps {
  plan: Plan;
  report: TimelineAnswer;
  /** The input: a saved outage, or failed elements and a restore time; and the displayed moment. */
  asked: { outage: string; fail: readonly string[]; healMs: number | null; cursor: number | null };
  /** Times that are tried before they are kept, and the run without and with them. */
  turning: {
    turned: Edit | null;
    onTurn: (edit: Edit | null) => void;
    before: TimelineAnswer | null;
    after: TimelineAnswer | null;
  };
  /** The comparison: another outage, or the same in the approved revision. */
  beside: {
    text: string;
    outage: string;
    report: TimelineAnswer | null;
    approved: TimelineAnswer | null;
    drafted: boolean;
  };
  editing: ReturnType<typeof useEditing>;
  seen: ObservedFlow | null;
}

/** A simulated outage: adjustable timers, their effect, and every flow over time. */
export function RunView({ plan, report, asked, turning, beside, editing, seen }: RunViewProps) {
  const { page, labels } = usePlan();
  const watches = useMemo((): Map<string, Watch> => watchesOf(plan), [plan]);
  const { turned, onTurn, before, after } = turning;
  const { outage, fail, healMs, cursor } = asked;
  const sameApproved = beside.text === APPROVED;
  return (
    <>
      <Knobs
        of={turnablesOf(
          plan,
          report.watches.map((entry) => entry.watch),
          report.moved,
        )}
        onTurn={onTurn}
        turned={turned}
        busy={editing.busy}
        onKeep={() => {
          if (!turned) return;
          editing.save(turned);
          onTurn(null);
        }}
      />
      {turned && before && after && (
        <GapChanges title="Approved state and draft" before={before} after={after} />
      )}
      {!turned && beside.text === "" && before && beside.approved && (
        <GapChanges
          title={`Approved revision ${page.approved} and draft`}
          before={beside.approved}
          after={before}
        />
      )}
      {report.flapping && (
        <p role="alert" className="mt-2 font-medium text-stop">
          <LinkedSentence text={unrestText(report)} />
        </p>
      )}
      {report.beyondCombining > 0 && (
        <p className="mt-2">
          <strong>An estimate:</strong> {report.beyondCombining} events of this outage have an uncertain time,
          too many to try all combinations. Each was tried early and late, alone and together. A longer outage
          is possible.
        </p>
      )}
      <BesideChoice outages={plan.outages} beside={beside.text} own={outage} drafted={beside.drafted} />
      {beside.report ? (
        <SideBySide
          runs={[
            { title: titleOf(plan.outages, outage, fail, labels), report, healMs },
            {
              title: sameApproved
                ? `Same outage in approved revision ${page.approved}`
                : titleOf(plan.outages, beside.outage, [], labels),
              report: beside.report,
              healMs: sameApproved ? healMs : null,
            },
          ]}
          watches={watches}
        />
      ) : (
        <div className="mt-3">
          <TimeChart report={report} watches={watches} healMs={healMs} cursorMs={cursor} seen={seen} />
        </div>
      )}
    </>
  );
}

/** That an outage never settles; its last event gives the reason. */
function unrestText({ events }: TimelineAnswer): string {
  const why = events.at(-1)?.what ?? "it does not settle";
  return `${why[0].toUpperCase()}${why.slice(1)}.`;
}

/** What an outage is called: by its label, else by what fails. */
function titleOf(
  outages: readonly Outage[],
  outage: string,
  fail: readonly string[],
  labels: Labels,
): string {
  const saved = outages.find((entry) => entry.id === outage);
  return saved
    ? (saved.label ?? saved.id)
    : `${fail.map((ref) => elementLabel(ref, labels)).join(", ")} ${fail.length === 1 ? "fails" : "fail"}`;
}
