import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { type Edit, missingElement } from "../../../core/plan/index.ts";
import { useAsking } from "../../engine/asking.ts";
import { usePlanDocument } from "../../plan/document.ts";
import { downOf } from "../../plan/down.ts";
import { useEditing } from "../../plan/editing.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { withParam } from "../../search/links.ts";
import { momentIn, outageIn } from "../../search/looked.ts";
import { APPROVED } from "./beside.tsx";
import { Choice } from "./choice.tsx";
import { ObservedPanel } from "./observed.tsx";
import { rememberOutage } from "./recent-outages.ts";
import { RehearsalPanel } from "./rehearsal.tsx";
import { RunView } from "./run-view.tsx";
import { Crowded, Established, TimeHead, WhatHappens } from "./time-parts.tsx";
import { SavedOutages, TimeStart } from "./time-start.tsx";
import { useObserved } from "./use-observed.ts";

/** How long an outage lasts for every flow, and whether it comes back: what fails, when it heals, saved or not. */
export function TimeView() {
  const { page, frame, params } = usePlan();
  const navigate = useNavigate();
  const { plan } = usePlanDocument(page);
  const editing = useEditing(page, "outages");
  const [turned, setTurned] = useState<Edit | null>(null);
  const down = downOf(frame);
  const cursor = momentIn(params)?.atMs ?? null;
  const stopAt = (ms: number) =>
    navigate(withParam(params, "at", String(ms)), { replace: true, preventScrollReset: true });
  const { outage, fail: chosen, healMs } = outageIn(params);
  // Without another choice, the failed elements of the conditions are the failure.
  const fail = outage === "" && chosen.length === 0 ? down : chosen;
  const missing = outage === "" && plan ? chosen.flatMap((ref) => missingElement(ref, plan) ?? []) : [];
  const asked = outage !== "" || (fail.length > 0 && missing.length === 0);
  const recentKey =
    outage === "" && plan && chosen.length > 0 && missing.length === 0
      ? JSON.stringify({ fail: chosen, healMs })
      : "";
  useEffect(() => {
    if (recentKey !== "") rememberOutage(page.planId, JSON.parse(recentKey));
  }, [recentKey, page.planId]);
  const args = asked ? { down, fail, healMs, outage } : null;
  const before = useAsking(page, "timeline", args, { kind: "time before" });
  const after = useAsking(page, "timeline", args && turned ? { ...args, edit: turned } : null, {
    kind: "time after",
  });
  const drafted = page.revision !== page.approved;
  const approved = useAsking(page, "timeline", args && drafted ? { ...args, beforeDraft: true } : null, {
    kind: "time approved",
  });
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
      <Choice
        plan={plan}
        fail={fail}
        fromConditions={fail !== chosen}
        healMs={healMs}
        outage={saved}
        editing={editing}
      />
      {missing.length > 0 && (
        <p role="alert" className="mt-3 text-stop">
          Not simulated: {missing.join("; ")}.
        </p>
      )}
      {asked && <TimeHead cursor={cursor} onStop={stopAt} />}
      {!asked && plan && <TimeStart plan={plan} editing={editing} />}
      {before.pending && !before.answer && <p className="mt-3 text-ink-2">Simulating …</p>}
      {before.error && (
        <p role="alert" className="mt-3 text-stop">
          {before.error}
        </p>
      )}
      {report && plan && (
        <RunView
          plan={plan}
          report={report}
          asked={{ outage, fail, healMs: args?.healMs ?? null, cursor }}
          turning={{ turned, onTurn: setTurned, before: before.answer, after: after.answer }}
          beside={{
            text: besideText,
            outage: besideOutage,
            report: other,
            approved: approved.answer,
            drafted,
          }}
          editing={editing}
          seen={observing.seen}
        />
      )}
      <ObservedPanel observing={observing} />
      {/* Unsaved changes are in no revision, so they cannot be rehearsed. */}
      <RehearsalPanel
        asked={args && turned === null && report ? { revision: page.revision, ...args } : null}
      />
      {report && <Established flows={report.flows} />}
      {report && <Crowded spans={report.crowded} />}
      {report && plan && <WhatHappens events={report.events} onStop={stopAt} />}
      {asked && plan && (
        <div className="mt-5">
          <SavedOutages plan={plan} own={outage} editing={editing} />
        </div>
      )}
    </div>
  );
}
