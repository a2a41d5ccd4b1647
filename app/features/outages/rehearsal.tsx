import { boundsText } from "../../../core/words/index.ts";
import type { Rehearsal, RehearsedFlow } from "../../../lab/rehearsal/result.ts";
import type { RehearsalRun } from "../../../server/rehearsals.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { RehearsalAsked } from "../../routes/rehearsals.ts";
import { clockText } from "../../ui/clock-time.tsx";
import { Carrier } from "./carrier.tsx";
import { useRehearsal } from "./use-rehearsal.ts";

/** Runs the outage in a worker's lab, and shows the observation beside the prediction. */
export function RehearsalPanel({ asked }: { asked: RehearsalAsked | null }) {
  const { planId, page } = usePlan();
  const mayAsk = page.role !== "reads";
  const { run, open, busy, error, ask, cancel } = useRehearsal(planId, asked);
  if (!asked) return null;
  return (
    <section aria-label="Rehearsal" className="mt-4">
      <h2 className="font-semibold font-sign text-[18px]">Lab rehearsal</h2>
      <div className="flex flex-wrap items-center gap-3">
        {mayAsk && !open && (
          <button type="button" className="button" disabled={busy} onClick={ask}>
            {run ? "Rehearse again" : "Rehearse in the lab"}
          </button>
        )}
        {mayAsk && open && (
          <button type="button" className="button" disabled={busy} onClick={cancel}>
            Stop
          </button>
        )}
        <p role="status" className="text-ink-2">
          {run
            ? stateText(run)
            : "Builds the network from Linux namespaces, sends every flow and runs the outage."}
        </p>
      </div>
      {error !== "" && (
        <p role="alert" className="text-stop">
          {error}
        </p>
      )}
      {run?.state === "done" && run.result && <RehearsalResult found={run.result} />}
    </section>
  );
}

function stateText({ state, told: progress, askedBy, askedAt }: RehearsalRun): string {
  switch (state) {
    case "waiting":
      return "Waiting for a worker with root rights on Linux (bin/worker).";
    case "running":
      return `${progress || "Starting"} …`;
    case "failed":
      return `The rehearsal failed: ${progress}.`;
    case "cancelled":
      return "The rehearsal was stopped.";
    case "done":
      return `Requested by ${askedBy} at ${clockText(askedAt)}.`;
  }
}

function RehearsalResult({ found }: { found: Rehearsal }) {
  const differing = found.flows.filter(({ agrees }) => agrees === false).length;
  return (
    <div data-testid="rehearsal">
      <p className={found.agrees ? "mt-1 font-semibold" : "mt-1 font-semibold text-stop"}>
        {found.agrees
          ? "All flows behaved as predicted."
          : `${differing} of ${found.flows.length} flows differed from the prediction.`}
      </p>
      <div className="overflow-x-auto">
        <table className="mt-1 border-collapse text-[13px]">
          <thead>
            <tr className="border-rule border-b text-left text-ink-2">
              <th className="py-1 pr-4 font-medium">Flow</th>
              <th className="py-1 pr-4 font-medium">Predicted gap</th>
              <th className="py-1 pr-4 font-medium">Observed gap</th>
              <th className="py-1 pr-4 text-right font-medium">Lost</th>
              <th className="py-1 pr-4 font-medium">Gateway</th>
            </tr>
          </thead>
          <tbody>
            {found.flows.map((flow) => (
              <FlowRow key={flow.id} flow={flow} />
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-1 text-[13px] text-ink-2">
        Timing tolerance: the host was up to {found.delayMs} ms late and needed {found.tookMs} ms per failure;{" "}
        {found.allowedMs} ms are allowed.
      </p>
      {found.leftOut.length > 0 && (
        <details className="mt-1 text-[13px]">
          <summary className="cursor-pointer text-ink-2">
            Not reproduced in the lab ({found.leftOut.length})
          </summary>
          <ul className="list-disc pl-5">
            {found.leftOut.map((sentence) => (
              <li key={sentence}>{sentence}</li>
            ))}
          </ul>
        </details>
      )}
      {found.events.length > 0 && (
        <details className="mt-1 text-[13px]">
          <summary className="cursor-pointer text-ink-2">Watches and virtual routers</summary>
          <ol>
            {found.events.map(({ atMs, what }) => (
              <li key={`${atMs} ${what}`} className="flex gap-3">
                <span className="w-20 shrink-0 text-right text-ink-2">{atMs} ms</span>
                {what}
              </li>
            ))}
          </ol>
        </details>
      )}
    </div>
  );
}

function FlowRow({ flow: { id, predicted, observed, agrees, why } }: { flow: RehearsedFlow }) {
  const { labels } = usePlan();
  return (
    <tr className="border-rule border-b align-top">
      <th scope="row" className="max-w-64 py-1 pr-4 text-left font-medium">
        {labels.flows.get(id) ?? id}
      </th>
      <td className="whitespace-nowrap py-1 pr-4">{boundsText(predicted) || "none"}</td>
      <td className="py-1 pr-4">
        {observed ? (
          <span className={agrees === false ? "text-stop" : ""}>
            {agrees === false ? "≠ " : "= "}
            {boundsText(observed.outageMs) || "none"}
          </span>
        ) : (
          "not sent"
        )}
        {why && <p className="max-w-96 text-stop">{why}</p>}
      </td>
      <td className="py-1 pr-4 text-right">{observed?.lost ?? ""}</td>
      <td className="py-1 pr-4">{observed && <Carriers carriers={observed.carriers} />}</td>
    </tr>
  );
}

/** The carriers before, during and after; repetitions are merged. */
function Carriers({
  carriers: { before, during, after },
}: {
  carriers: NonNullable<RehearsedFlow["observed"]>["carriers"];
}) {
  const all = [before, ...during, after].filter(
    (one, n, list) => n === 0 || one?.join() !== list[n - 1]?.join(),
  );
  return (
    <span className="flex flex-wrap items-center gap-x-1">
      {all.map((ids, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a gateway can carry twice; its place in the order is its identity.
        <span key={n} className="inline-flex flex-wrap items-center gap-1">
          {n > 0 && <span className="text-ink-2">then</span>}
          {ids === null
            ? "nothing"
            : ids.length === 0
              ? "no gateway"
              : ids.map((id) => <Carrier key={id} id={id} />)}
        </span>
      ))}
    </span>
  );
}
