import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import type { Edit } from "../../../core/plan/index.ts";
import type { TimelineReport } from "../../../core/reports/index.ts";
import type { Frame } from "../../answers/frame.ts";
import { useAsking } from "../../data/asking.ts";
import { usePlanDocument } from "../../data/document.ts";
import { downOf } from "../../data/down.ts";
import { useEditing } from "../../data/editing.ts";
import type { Known } from "../../data/known.ts";
import { pageHref, withParam } from "../../ui/links.ts";
import { Choice } from "./choice.tsx";
import { gapText, secondsText } from "./gap.ts";
import { Knobs } from "./knobs.tsx";
import { ObservedPanel, useObserved } from "./observed.tsx";
import { TimeChart } from "./time-chart.tsx";

/** How long an outage lasts for every flow, and whether it comes back: what fails, when it heals, saved or not. */
export function TimeView({ page, frame }: { page: Known; frame: Frame }) {
  const [params] = useSearchParams();
  const navigate = useNavigate();
  const plan = usePlanDocument(page);
  const editing = useEditing(page, "outages");
  const [turned, setTurned] = useState<Edit | null>(null);
  const [cursor, setCursor] = useState<number | null>(null);
  const down = downOf(frame);
  const outage = params.get("outage") ?? "";
  const fail = params.getAll("fail");
  const healText = params.get("heal");
  const healMs = healText === null || healText === "" ? null : Number(healText);
  const asked = outage !== "" || fail.length > 0;
  const args = asked ? { down, fail, healMs: Number.isFinite(healMs) ? healMs : null, outage } : null;
  const before = useAsking(page, "timeline", args, { kind: "time before" });
  const after = useAsking(page, "timeline", args && turned ? { ...args, edit: turned } : null, {
    kind: "time after",
  });
  const drafted = page.revision !== page.approved;
  const approved = useAsking(page, "timeline", args && drafted ? { ...args, beforeDraft: true } : null, {
    kind: "time approved",
  });
  const report = after.answer ?? before.answer;
  const saved = plan?.outages.find((entry) => entry.id === outage) ?? null;
  const observing = useObserved(page, asked ? report : null);
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <div className="flex flex-wrap items-baseline gap-3">
        <h1 className="font-semibold font-sign text-[26px]">Outage in time</h1>
        <Link className="name-link" to={pageHref(page.planId, "outages", params)}>
          The board
        </Link>
      </div>
      <Choice plan={plan} fail={fail} healMs={healMs} outage={saved} editing={editing} params={params} />
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
            <GapChanges title="Before and after" frame={frame} before={before.answer} after={after.answer} />
          )}
          {!turned && before.answer && approved.answer && (
            <GapChanges
              title={`Revision ${page.approved}, approved, and the draft`}
              frame={frame}
              before={approved.answer}
              after={before.answer}
            />
          )}
          <div className="mt-3">
            <TimeChart
              report={report}
              frame={frame}
              healMs={args?.healMs ?? null}
              cursorMs={cursor}
              seen={observing.seen}
            />
          </div>
          <section aria-label="What happens" className="mt-3">
            <h2 className="font-semibold font-sign text-[18px]">What happens, in the longest case</h2>
            <ol className="max-w-3xl">
              {report.events.map((event, i) => (
                <li
                  // biome-ignore lint/suspicious/noArrayIndexKey: the same can happen twice at one moment; the order is the identity.
                  key={`${i} ${event.atMs} ${event.what}`}
                  className="flex gap-3 border-rule border-t"
                >
                  <button
                    type="button"
                    className="w-20 shrink-0 text-right text-ink-2 hover:underline"
                    onClick={() => setCursor(event.atMs)}
                    aria-label={`Mark ${secondsText(event.atMs)} s in the drawing`}
                  >
                    {secondsText(event.atMs)} s
                  </button>
                  <span>{event.what}</span>
                </li>
              ))}
            </ol>
          </section>
        </>
      )}
      <ObservedPanel page={page} frame={frame} observing={observing} />
      {plan && plan.outages.length > 0 && (
        <section aria-label="Saved outages" className="mt-5">
          <h2 className="font-semibold font-sign text-[18px]">Saved outages</h2>
          <ul>
            {plan.outages.map((entry) => (
              <li key={entry.id} className="flex gap-3">
                <Link
                  className="name-link font-medium"
                  to={withParam(new URLSearchParams(down.map((ref) => ["down", ref])), "outage", entry.id)}
                >
                  {entry.label ?? entry.id}
                </Link>
                <button
                  type="button"
                  className="name-link text-ink-2"
                  disabled={editing.busy}
                  aria-label={`Remove the outage ${entry.label ?? entry.id}`}
                  onClick={() => {
                    editing.save({
                      label: `Remove the outage ${entry.label ?? entry.id}`,
                      changes: [{ in: "plan", collection: "outages", before: entry, after: null }],
                    });
                    if (entry.id === outage) navigate(withParam(params, "outage", null));
                  }}
                >
                  Remove
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

/** The flows whose gap differs between two runs of an outage. */
function GapChanges({
  title,
  frame,
  before,
  after,
}: {
  title: string;
  frame: Frame;
  before: TimelineReport;
  after: TimelineReport;
}) {
  const changed = after.flows.flatMap((flow) => {
    const old = before.flows.find((entry) => entry.id === flow.id);
    if (!old) return [];
    const [was, now] = [gapText(old.outageMs) || "no gap", gapText(flow.outageMs) || "no gap"];
    return was === now ? [] : [{ id: flow.id, was, now }];
  });
  return (
    <section aria-label={title} className="mt-2">
      <h2 className="text-[13px] text-ink-2">{title}</h2>
      {changed.length === 0 && <p>No gap differs.</p>}
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
