import { useMemo, useState } from "react";
import { useNavigate } from "react-router";
import type { Edit, Plan, Watch } from "../../../core/plan/index.ts";
import { useAsking } from "../../engine/asking.ts";
import { usePlanDocument } from "../../plan/document.ts";
import { downOf } from "../../plan/down.ts";
import { useEditing } from "../../plan/editing.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { Told } from "../../plan/told.tsx";
import { elementLabel, type Labels } from "../../plan/told-parts.ts";
import type { TimelineAnswer } from "../../queries/asks.ts";
import { withParam } from "../../search/links.ts";
import { momentIn, outageIn } from "../../search/looked.ts";
import { APPROVED, BesideChoice, GapChanges, SideBySide, watchesOf } from "./beside.tsx";
import { Choice } from "./choice.tsx";
import { Knobs } from "./knobs.tsx";
import { ObservedPanel, useObserved } from "./observed.tsx";
import { TimeChart } from "./time-chart.tsx";
import { SavedOutages, TimeHead, WhatHappens } from "./time-parts.tsx";

/** How long an outage lasts for every flow, and whether it comes back: what fails, when it heals, saved or not. */
export function TimeView() {
  const { page, frame, params, labels } = usePlan();
  const navigate = useNavigate();
  const { plan } = usePlanDocument(page);
  const editing = useEditing(page, "outages");
  const [turned, setTurned] = useState<Edit | null>(null);
  const down = downOf(frame);
  const cursor = momentIn(params)?.atMs ?? null;
  const stopAt = (ms: number) =>
    navigate(withParam(params, "at", String(ms)), { replace: true, preventScrollReset: true });
  const { outage, fail: chosen, healMs } = outageIn(params);
  // Where nothing else is chosen, what is down in the conditions is the failure.
  const fail = outage === "" && chosen.length === 0 ? down : chosen;
  const asked = outage !== "" || fail.length > 0;
  const args = asked ? { down, fail, healMs, outage } : null;
  const before = useAsking(page, "timeline", args, { kind: "time before" });
  const after = useAsking(page, "timeline", args && turned ? { ...args, edit: turned } : null, {
    kind: "time after",
  });
  const drafted = page.revision !== page.approved;
  const approved = useAsking(page, "timeline", args && drafted ? { ...args, beforeDraft: true } : null, {
    kind: "time approved",
  });
  const watches = useMemo(() => (plan ? watchesOf(plan) : new Map<string, Watch>()), [plan]);
  const besideText = params.get("beside") ?? "";
  const besideOutage = besideText.startsWith("outage:") ? besideText.slice("outage:".length) : "";
  const beside = useAsking(
    page,
    "timeline",
    asked && besideOutage !== "" ? { down, fail: [], healMs: null, outage: besideOutage } : null,
    { kind: "time beside" },
  );
  const report = after.answer ?? before.answer;
  const other = besideText === APPROVED ? approved.answer : beside.answer;
  const saved = plan?.outages.find((entry) => entry.id === outage) ?? null;
  const observing = useObserved(page, asked ? report : null);
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <TimeHead asked={asked} cursor={cursor} onStop={stopAt} />
      <Choice
        plan={plan}
        fail={fail}
        fromConditions={fail !== chosen}
        down={frame.conditions.plates.map((plate) => plate.label)}
        healMs={healMs}
        outage={saved}
        editing={editing}
      />
      {!asked && (
        <p className="mt-3 text-ink-2">
          Choose what fails above, or open a case on the board and follow “All flows in time”.
        </p>
      )}
      {before.pending && !before.answer && <p className="mt-3 text-ink-2">Running it through …</p>}
      {before.error && (
        <p role="alert" className="mt-3 text-stop">
          {before.error}
        </p>
      )}
      {report && plan && (
        <>
          <Knobs
            plan={plan}
            watches={report.watches.map((entry) => entry.watch)}
            fail={fail}
            onTurn={setTurned}
            turned={turned}
            busy={editing.busy}
            onKeep={() => {
              if (!turned) return;
              editing.save(turned);
              setTurned(null);
            }}
          />
          {turned && before.answer && after.answer && (
            <GapChanges title="Before and after" before={before.answer} after={after.answer} />
          )}
          {!turned && besideText === "" && before.answer && approved.answer && (
            <GapChanges
              title={`Revision ${page.approved}, approved, and the draft`}
              before={approved.answer}
              after={before.answer}
            />
          )}
          {report.flapping && (
            <p role="alert" className="mt-2 font-medium text-stop">
              <Told text={unrestText(report)} />
            </p>
          )}
          <BesideChoice outages={plan.outages} beside={besideText} own={outage} drafted={drafted} />
          {other ? (
            <SideBySide
              runs={[
                { title: titleOf(plan, outage, fail, labels), report, healMs: args?.healMs ?? null },
                {
                  title:
                    besideText === APPROVED
                      ? `The same in revision ${page.approved}, approved`
                      : titleOf(plan, besideOutage, [], labels),
                  report: other,
                  healMs: besideText === APPROVED ? (args?.healMs ?? null) : null,
                },
              ]}
              watches={watches}
            />
          ) : (
            <div className="mt-3">
              <TimeChart
                report={report}
                watches={watches}
                healMs={args?.healMs ?? null}
                cursorMs={cursor}
                seen={observing.seen}
              />
            </div>
          )}
        </>
      )}
      <ObservedPanel observing={observing} />
      {report && plan && <WhatHappens events={report.events} onStop={stopAt} />}
      {plan && plan.outages.length > 0 && <SavedOutages plan={plan} own={outage} editing={editing} />}
    </div>
  );
}

/** That an outage never comes to rest; the last thing told of it says why. */
function unrestText({ events }: TimelineAnswer): string {
  const why = events.at(-1)?.what ?? "it never comes to rest";
  return `${why[0].toUpperCase()}${why.slice(1)}.`;
}

/** What an outage is called: by its label, else by what fails. */
function titleOf(plan: Plan, outage: string, fail: readonly string[], labels: Labels): string {
  const saved = plan.outages.find((entry) => entry.id === outage);
  return saved
    ? (saved.label ?? saved.id)
    : `${fail.map((ref) => elementLabel(ref, labels)).join(", ")} ${fail.length === 1 ? "fails" : "fail"}`;
}
