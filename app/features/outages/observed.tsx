import { useMemo, useState } from "react";
import type { TimelineReport } from "../../../core/reports/index.ts";
import { boundsText, secondsText } from "../../../core/words/index.ts";
import { compare, exchangesOf, type Observed, observedOf } from "../../../exchange/capture/index.ts";
import { useAsking } from "../../engine/asking.ts";
import type { Known } from "../../plan/known.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { TimelineAnswer } from "../../queries/asks.ts";
import type { Witnesses } from "../../queries/witnesses.ts";
import { Shield } from "../../ui/shield.tsx";
import { conversationText, keepCapture, type LoadedCapture, loadCapture, useCapture } from "./capture.ts";

/** What a capture shows of a flow, in the time of the outage. */
export interface Seen {
  flow: string;
  observed: Observed;
}

/** Where the demo's capture lies. */
const EXAMPLE = "/demo/longhaven-cut.pcapng";

/**
 * What a capture shows, beside what was predicted: one conversation followed, by whose hardware it went and when
 * nobody answered. `seen` is shown in the drawing; `onSeen` is told what to show.
 */
export function useObserved(page: Known, report: TimelineAnswer | null) {
  const capture = useCapture(page.planId);
  const [choice, setChoice] = useState<{ conversation: number; flow: string; failedMs: number | null }>({
    conversation: -1,
    flow: "",
    failedMs: null,
  });
  const [assigned, setAssigned] = useState<Record<string, string>>({});
  const args = useMemo(
    () =>
      capture
        ? { neighbours: [...capture.neighbours].map(([a, h]) => [a, [...h]] as [string, string[]]) }
        : null,
    [capture],
  );
  const { answer: witnesses } = useAsking(page, "witnesses", args);
  const followed = useMemo(() => {
    if (!capture || !witnesses) return null;
    const picked = pick(capture, witnesses, choice.conversation, choice.flow);
    const exchanges = exchangesOf(capture.conversations[picked.conversation]);
    const known = new Map([...witnesses.hardware, ...Object.entries(assigned)]);
    const gatewayOf = (hardware: readonly string[]) =>
      hardware.map((address) => known.get(address)).find((id) => id !== undefined && id !== "") ?? "";
    const whole = observedOf(exchanges, gatewayOf, capture.startMs);
    // Unless told otherwise, the failure lies where the first silence begins.
    const failedMs = choice.failedMs ?? whole.silences[0]?.firstMs ?? 0;
    // Hardware that only shows beside such as is known, like a far end's, tells nothing more.
    const named = new Set(witnesses.hardware.map(([address]) => address));
    const strange = new Set(
      exchanges
        .map((exchange) => [...exchange.outHardware, ...exchange.backHardware])
        .filter((list) => !list.some((address) => named.has(address)))
        .flat(),
    );
    return {
      ...picked,
      failedMs,
      strange,
      observed: observedOf(exchanges, gatewayOf, capture.startMs + failedMs),
    };
  }, [capture, witnesses, choice, assigned]);
  const predicted = report?.flows.find((flow) => flow.id === followed?.flow) ?? null;
  const seen = useMemo(
    (): Seen | null => (followed && predicted ? { flow: followed.flow, observed: followed.observed } : null),
    [followed, predicted],
  );
  return { report, capture, witnesses, followed, predicted, seen, choice, setChoice, assigned, setAssigned };
}

/** The conversation and the flow chosen; else the first pair of them that belong together. */
function pick(capture: LoadedCapture, witnesses: Witnesses, conversation: number, flow: string) {
  const belongs = (c: number, f: Witnesses["flows"][number]) =>
    capture.conversations[c].server === f.server && f.clients.includes(capture.conversations[c].client);
  const all = conversation >= 0 ? [conversation] : capture.conversations.map((_, c) => c);
  for (const c of all) {
    const found = witnesses.flows.find((f) => (flow === "" || f.flow === flow) && belongs(c, f));
    if (found) return { conversation: c, flow: found.flow };
  }
  return { conversation: all[0] ?? 0, flow: flow || (witnesses.flows[0]?.flow ?? "") };
}

type Observing = ReturnType<typeof useObserved>;

/** Loads a capture, and tells how it and the prediction go together. */
export function ObservedPanel({ observing }: { observing: Observing }) {
  const { page, frame } = usePlan();
  const { report, capture, witnesses, followed, predicted, choice, setChoice, assigned, setAssigned } =
    observing;
  const [error, setError] = useState("");
  const take = (name: string, bytes: ArrayBuffer) => {
    const loading = loadCapture(name, new Uint8Array(bytes));
    setError(loading.ok ? "" : loading.message);
    if (loading.ok) {
      setChoice({ conversation: -1, flow: "", failedMs: null });
      setAssigned({});
      keepCapture(page.planId, loading.capture);
    }
  };
  return (
    <section aria-label="Observed" className="mt-4 max-w-3xl">
      <h2 className="font-semibold font-sign text-[18px]">Observed against predicted</h2>
      <div className="flex flex-wrap items-center gap-3">
        <label htmlFor="capture-file" className="text-ink-2">
          A packet capture (pcap or pcapng)
        </label>
        <input
          id="capture-file"
          type="file"
          accept=".pcap,.pcapng,.cap"
          className="max-w-64"
          onChange={async (event) => {
            const [file] = event.target.files ?? [];
            if (file) take(file.name, await file.arrayBuffer());
          }}
        />
        {!capture && (
          <button
            type="button"
            className="button"
            onClick={async () => {
              const response = await fetch(EXAMPLE);
              if (response.ok) take("longhaven-cut.pcapng", await response.arrayBuffer());
              else setError(`the demo's capture could not be fetched (${response.status})`);
            }}
          >
            Take the demo's
          </button>
        )}
        {capture && (
          <button type="button" className="button" onClick={() => keepCapture(page.planId, null)}>
            Put it away
          </button>
        )}
      </div>
      <p className="text-[13px] text-ink-2">It is read in the browser and goes nowhere.</p>
      {error !== "" && (
        <p role="alert" className="text-stop">
          {error}
        </p>
      )}
      {capture && (
        <p className="mt-1">
          <span className="font-medium">{capture.name}:</span> {capture.frames} packets.{" "}
          {capture.notes.join(". ")}
        </p>
      )}
      {capture && followed && witnesses && (
        <>
          <div className="mt-1 flex flex-wrap items-end gap-3">
            <div className="flex flex-col">
              <label htmlFor="capture-conversation" className="text-[13px] text-ink-2">
                Follow
              </label>
              <select
                id="capture-conversation"
                className="field"
                value={followed.conversation}
                onChange={(event) =>
                  setChoice({ conversation: Number(event.target.value), flow: "", failedMs: null })
                }
              >
                {capture.conversations.slice(0, 50).map((conversation, c) => (
                  <option key={conversationText(conversation)} value={c}>
                    {conversationText(conversation)}
                  </option>
                ))}
              </select>
            </div>
            <div className="flex flex-col">
              <label htmlFor="capture-flow" className="text-[13px] text-ink-2">
                As the flow
              </label>
              <select
                id="capture-flow"
                className="field"
                value={followed.flow}
                onChange={(event) => setChoice({ ...choice, flow: event.target.value })}
              >
                {frame.flows.map((flow) => (
                  <option key={flow.id} value={flow.id}>
                    {flow.label}
                  </option>
                ))}
              </select>
            </div>
            <div className="flex flex-col">
              <label htmlFor="capture-failed" className="text-[13px] text-ink-2">
                Failure, s into the capture
              </label>
              <input
                id="capture-failed"
                type="number"
                step="0.01"
                min="0"
                className="field w-32"
                value={Math.round(followed.failedMs / 10) / 100}
                onChange={(event) => setChoice({ ...choice, failedMs: Number(event.target.value) * 1000 })}
              />
            </div>
          </div>
          {followed.strange.size > 0 && (
            <ul className="mt-1" aria-label="Hardware addresses that the plan does not know">
              {[...followed.strange].slice(0, 6).map((address) => (
                <li key={address} className="flex items-center gap-2">
                  <span className="addr">{address}</span>
                  <select
                    aria-label={`Gateway of ${address}`}
                    className="field"
                    value={assigned[address] ?? ""}
                    onChange={(event) => setAssigned({ ...assigned, [address]: event.target.value })}
                  >
                    <option value="">no gateway</option>
                    {frame.gateways.map((gateway) => (
                      <option key={gateway.id} value={gateway.id}>
                        {gateway.label}
                      </option>
                    ))}
                  </select>
                </li>
              ))}
            </ul>
          )}
          <Verdict observed={followed.observed} report={report} predicted={predicted} />
        </>
      )}
    </section>
  );
}

function Verdict({
  observed,
  report,
  predicted,
}: {
  observed: Observed;
  report: TimelineAnswer | null;
  predicted: TimelineReport["flows"][number] | null;
}) {
  const lost = observed.lost === 0 ? "no reply is missing" : `${observed.lost} replies are missing`;
  const sent = `${observed.sent} packets sent, one every ${Math.round(observed.spacingMs)} ms; ${lost}.`;
  if (!predicted || !report)
    return <p className="mt-2">{sent} Choose an outage above to lay it over a prediction.</p>;
  const carriers = carriersOf(report, predicted);
  const { gap, carriers: ways } = compare(observed, { outageMs: predicted.outageMs, carriers });
  const named = (ids: readonly string[]) =>
    // biome-ignore lint/suspicious/noArrayIndexKey: a gateway can carry twice; its place in the order is its identity.
    ids.map((id, i) => <Carrier key={`${i} ${id}`} id={id} />);
  return (
    <div className="mt-2" data-testid="agreement">
      <p className={gap.agrees && ways.agrees ? "font-semibold" : "font-semibold text-stop"}>
        {gap.agrees && ways.agrees
          ? "Prediction and observation agree."
          : "Prediction and observation do not agree."}
      </p>
      <p>{sent}</p>
      <p>
        Gap: predicted {boundsText(predicted.outageMs) || "none"}, seen{" "}
        {gap.mostMs === null
          ? `from ${fineText(gap.leastMs)} s on, without end`
          : `${fineText(gap.leastMs)} to ${fineText(gap.mostMs)} s`}
        . {gap.agrees ? "They agree." : "They do not agree."}
      </p>
      <p className="flex flex-wrap items-center gap-1">
        Gateways: predicted {named(carriers)}; seen{" "}
        {ways.seen.length ? named(ways.seen) : "none whose hardware address is known"}.{" "}
        {ways.agrees ? "They agree." : "They do not agree."}
      </p>
    </div>
  );
}

/** A gap as finely as packets tell it. */
function fineText(ms: number): string {
  return ms < 10_000 ? (Math.round(ms / 10) / 100).toString() : secondsText(ms);
}

function Carrier({ id }: { id: string }) {
  const { frame } = usePlan();
  const g = frame.gateways.findIndex((gateway) => gateway.id === id);
  return (
    <span className="inline-flex items-center gap-1">
      {g >= 0 && <Shield gateway={g} label={frame.gateways[g].label} size={18} />}
      {frame.gateways[g]?.label ?? id}
    </span>
  );
}

/** The first gateway of each stretch that works, from before the failure on. */
function carriersOf({ before }: TimelineAnswer, { id, spans }: TimelineReport["flows"][number]): string[] {
  const list = (before[id] ?? []).slice(0, 1);
  for (const { verdict, carriers } of spans)
    if (verdict === "works" && carriers.length > 0 && list.at(-1) !== carriers[0]) list.push(carriers[0]);
  return list;
}
