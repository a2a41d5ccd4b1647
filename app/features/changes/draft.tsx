import { useState } from "react";
import { Form, useNavigation } from "react-router";
import type { Change } from "../../../core/plan/index.ts";
import { type Preference, preferences, type Runbook, stepCount } from "../../../core/steps/index.ts";
import type { HistoryEntry } from "../../../server/plans.ts";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../../plan/down.ts";
import { ChangesByDevice } from "../../plan/impact/change-list.tsx";
import { ImpactView } from "../../plan/impact/impact-view.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { useRights } from "../../plan/rights.tsx";
import { ChooseOne } from "../../ui/toggle-group.tsx";
import { Waiting } from "../../ui/waiting.tsx";
import { loopingRanges } from "./looping-ranges.ts";
import { ProposeForm } from "./propose-form.tsx";

interface DraftProps {
  fourEyes: boolean;
  history: readonly HistoryEntry[];
}

/** Edits since the approved revision: configuration, impact and a possible rollout order. */
export function Draft({ fourEyes, history }: DraftProps) {
  const { page, frame } = usePlan();
  const down = downOf(frame);
  const open = page.revision !== page.approved;
  const { answer, pending, error, retry } = useAsking(page, "draft", open ? { down } : null);
  const changed = open && (answer === null || answer.changes.length > 0);
  const newest = page.revision === page.newest;
  return (
    <section aria-label="Draft" className="mt-3 max-w-4xl">
      <h2 className="font-semibold font-sign text-[20px]">
        {changed ? `Draft: revision ${page.revision} vs. approved ${page.approved}` : "No draft"}
      </h2>
      {!changed && (
        <p className="text-ink-2">
          The plan equals the approved revision {page.approved}. Add a route or edit the network: this page
          then shows the configuration changes, their impact and a safe rollout order until you approve them.
        </p>
      )}
      {(pending || error !== "") && <Waiting text="Comparing revisions …" error={error} retry={retry} />}
      {answer && answer.changes.length > 0 && (
        <>
          {newest && <OrderOfDraft changes={answer.changes} fourEyes={fourEyes} history={history} />}
          <h3 className="mt-3 mb-1 font-semibold text-[16px]">Configuration changes</h3>
          <ChangesByDevice changes={answer.changes} />
          {answer.effect && (
            <div className="mt-3">
              <h3 className="font-semibold text-[16px]">Impact</h3>
              <ImpactView effect={{ ...answer.effect, routes: [] }} findings={answer} />
            </div>
          )}
        </>
      )}
    </section>
  );
}

/** The draft's rollout order, and the next actions: propose a change, or approve directly. */
function OrderOfDraft({ changes, fourEyes, history }: DraftProps & { changes: readonly Change[] }) {
  const { page } = usePlan();
  const [prefer, setPrefer] = useState<Preference>("visits");
  const { answer, pending, error, retry } = useAsking(page, "runbook", { prefer });
  const [writing, setWriting] = useState(false);
  const { edits, approves } = useRights();
  const busy = useNavigation().state === "submitting";
  const steps = answer ? stepCount(answer) : 0;
  const why = history.find(({ number }) => number === page.revision)?.why ?? "";
  return (
    <div className="mt-2">
      <h3 className="font-semibold text-[16px]">Rollout order</h3>
      {(pending || error !== "") && <Waiting text="Trying rollout orders …" error={error} retry={retry} />}
      {!pending && !error && answer && (
        <>
          <OrderNotice runbook={answer} />
          <Alternative runbook={answer} prefer={prefer} onChoose={setPrefer} />
        </>
      )}
      {!pending && !error && !answer && changes.length > 0 && (
        <p>No order was found in which the steps can be done one at a time.</p>
      )}
      <div className="mt-2 flex flex-wrap items-center gap-3">
        {edits && steps > 0 && !writing && (
          <button type="button" className="button button-strong" onClick={() => setWriting(true)}>
            Propose change
          </button>
        )}
        {approves && !writing && (
          <Form method="post">
            <input type="hidden" name="do" value="approve" />
            <input type="hidden" name="revision" value={page.revision} />
            <button type="submit" className="button" disabled={busy}>
              Approve revision {page.revision}
            </button>
          </Form>
        )}
        {fourEyes && !writing && (
          <span className="text-[13px] text-ink-2">The approver must not be one of its authors.</span>
        )}
      </div>
      {writing && <ProposeForm title={why} prefer={prefer} onCancel={() => setWriting(false)} />}
    </div>
  );
}

/** Where another safe order moves less traffic or needs fewer visits: both, to choose from. */
function Alternative({
  runbook: { visits, moved, alternative },
  prefer,
  onChoose,
}: {
  runbook: Runbook;
  prefer: Preference;
  onChoose: (prefer: Preference) => void;
}) {
  if (!alternative) return null;
  const orders = { [prefer]: { visits: visits.length, moved }, [alternative.prefer]: alternative };
  return (
    <div className="mt-1 flex flex-wrap items-center gap-3">
      <ChooseOne
        label="Preferred order"
        value={prefer}
        onChange={(value) => onChoose(value as Preference)}
        options={preferences.map((value) => ({
          value,
          text: `${value === "visits" ? "Fewest visits" : "Least traffic moved"}: ${orderSize(orders[value])}`,
        }))}
      />
    </div>
  );
}

function orderSize({ visits, moved }: { visits: number; moved: number }): string {
  return `${visits} ${visits === 1 ? "visit" : "visits"}, ${moved === 0 ? "no path change" : moved === 1 ? "1 path change" : `${moved} path changes`}`;
}

/** An order in a sentence or two. */
export function OrderNotice({ runbook: { safe, proven, visits, helpers, unproven } }: { runbook: Runbook }) {
  const { labels } = usePlan();
  const steps = stepCount({ visits });
  if (steps === 0) return <p>No device is changed.</p>;
  const broken = new Set(visits.flatMap(({ breaks }) => breaks.map(({ flow }) => flow)));
  const names = [...broken].map((id) => labels.flows.get(id) ?? id);
  const circling = visits.flatMap(({ loops }, v) =>
    loops.map(({ range, until }) => ({ range, from: v + 1, until })),
  );
  const lost = visits.reduce((sum, { unreached }) => sum + unreached.length, 0);
  return (
    <>
      <p>
        {steps} {steps === 1 ? "step" : "steps"} in {visits.length} {visits.length === 1 ? "visit" : "visits"}
        :{" "}
        {safe ? (
          <strong>
            safe. Proven: traffic that works before and after the change also works after every step
            {proven.states > 0 &&
              ` (${countOf(proven.states, "state")}, each with ${countOf(proven.flows, "flow")} and ${countOf(proven.subnets, "subnet")} from every device)`}
            .
          </strong>
        ) : (
          <strong className="text-stop">
            {unproven.length > 0 ? "no safe order was found" : "no order is safe (proven)"}.{" "}
            {names.length > 0
              ? `During the rollout ${names.join(", ")} ${names.length === 1 ? "is" : "are"} interrupted.`
              : ""}
            {lost > 0 ? ` A subnet becomes unreachable ${lost} ${lost === 1 ? "time" : "times"}.` : ""}
          </strong>
        )}
      </p>
      {loopingRanges(circling).map(({ range, from, until }) => (
        <p key={range} className="text-warn">
          No host uses <span className="addr">{range}</span>; packets to it loop from visit {from} to visit{" "}
          {until}.
        </p>
      ))}
      {helpers && (
        <p>
          With {helpers.routes.length} helper {helpers.routes.length === 1 ? "route" : "routes"}, added first
          and removed last,{" "}
          {helpers.safe ? "the rollout has no interruption" : `${helpers.saves.length} are not interrupted`}:{" "}
          {helpers.routes.map(({ device, route }, n) => (
            <span key={`${device} ${route.to}`}>
              {n > 0 && "; "}
              <span className="addr">
                {route.to} via {route.via}
              </span>{" "}
              on {labels.devices.get(device) ?? device}
            </span>
          ))}
          .
        </p>
      )}
      {unproven.map((text) => (
        <p key={text} className="text-ink-2">
          Not proven: {text}
        </p>
      ))}
    </>
  );
}

function countOf(n: number, noun: string): string {
  return `${n} ${noun}${n === 1 ? "" : "s"}`;
}
