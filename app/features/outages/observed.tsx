import { useState } from "react";
import type { TimelineReport } from "../../../core/reports/index.ts";
import { boundsText, secondsText } from "../../../core/words/index.ts";
import { compare, type Observed } from "../../../exchange/capture/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { TimelineAnswer } from "../../queries/asks.ts";
import { FileButton } from "../../ui/file-button.tsx";
import { Pick } from "../../ui/select.tsx";
import { conversationText, keepCapture, type LoadedCapture, loadCapture } from "./capture.ts";
import { Carrier } from "./carrier.tsx";

import type { Observing } from "./use-observed.ts";

/** Where the demo's capture lies. */
const EXAMPLE = "/demo/longhaven-cut.pcapng";

/** Loads a capture, and compares it with the prediction. */
export function ObservedPanel({ observing }: { observing: Observing }) {
  const { report, capture, witnesses, followed, predicted } = observing;
  return (
    <section aria-label="Observed" className="mt-4 max-w-3xl">
      <h2 className="font-semibold font-sign text-[18px]">Predicted vs. observed</h2>
      <CaptureFile observing={observing} />
      {capture && (
        <p className="mt-1">
          <span className="font-medium">{capture.name}:</span> {capture.frames} packets.{" "}
          {capture.notes.join(". ")}
        </p>
      )}
      {capture && followed && witnesses && (
        <>
          <Followed observing={observing} capture={capture} followed={followed} />
          <StrangeHardware observing={observing} strange={followed.strange} />
          <Verdict observed={followed.observed} report={report} predicted={predicted} />
        </>
      )}
    </section>
  );
}

/** The capture's source, and its error if it cannot be read. */
function CaptureFile({ observing }: { observing: Observing }) {
  const { page } = usePlan();
  const { capture, setChoice, setAssigned } = observing;
  const [error, setError] = useState("");
  const take = (name: string, bytes: ArrayBuffer) => {
    const loading = loadCapture(name, new Uint8Array(bytes));
    setError(loading.ok ? "" : loading.message);
    if (!loading.ok) return;
    setChoice({ conversation: -1, flow: "", failedMs: null });
    setAssigned({});
    keepCapture(page.planId, loading.capture);
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-3">
        <FileButton
          accept=".pcap,.pcapng,.cap"
          onChange={async (event) => {
            const [file] = event.target.files ?? [];
            if (file) take(file.name, await file.arrayBuffer());
          }}
        >
          Choose packet capture (pcap, pcapng)
        </FileButton>
        {!capture && (
          <button
            type="button"
            className="button"
            onClick={async () => {
              const response = await fetch(EXAMPLE);
              if (response.ok) take("longhaven-cut.pcapng", await response.arrayBuffer());
              else setError(`the demo capture could not be loaded (${response.status})`);
            }}
          >
            Use demo capture
          </button>
        )}
        {capture && (
          <button type="button" className="button" onClick={() => keepCapture(page.planId, null)}>
            Remove capture
          </button>
        )}
      </div>
      <p className="text-[13px] text-ink-2">The file stays in your browser.</p>
      {error !== "" && (
        <p role="alert" className="text-stop">
          {error}
        </p>
      )}
    </>
  );
}

interface FollowedProps {
  observing: Observing;
  capture: LoadedCapture;
  followed: NonNullable<Observing["followed"]>;
}

/** Which conversation is followed, as which flow, and when the failure was. */
function Followed({ observing, capture, followed }: FollowedProps) {
  const { frame } = usePlan();
  const { choice, setChoice } = observing;
  return (
    <div className="mt-1 flex flex-wrap items-end gap-3">
      <div className="flex flex-col">
        <label htmlFor="capture-conversation" className="text-[13px] text-ink-2">
          Conversation
        </label>
        <Pick
          id="capture-conversation"
          value={String(followed.conversation)}
          onChange={(value) => setChoice({ conversation: Number(value), flow: "", failedMs: null })}
          choices={capture.conversations.slice(0, 50).map((conversation, c) => ({
            value: String(c),
            label: conversationText(conversation),
          }))}
        />
      </div>
      <div className="flex flex-col">
        <label htmlFor="capture-flow" className="text-[13px] text-ink-2">
          Flow
        </label>
        <Pick
          id="capture-flow"
          value={followed.flow}
          onChange={(flow) => setChoice({ ...choice, flow })}
          choices={frame.flows.map((flow) => ({ value: flow.id, label: flow.label }))}
        />
      </div>
      <div className="flex flex-col">
        <label htmlFor="capture-failed" className="text-[13px] text-ink-2">
          Failure at, seconds into the capture
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
  );
}

/** Unknown MAC addresses, which can be assigned to gateways. */
function StrangeHardware({ observing, strange }: { observing: Observing; strange: ReadonlySet<string> }) {
  const { frame } = usePlan();
  const { assigned, setAssigned } = observing;
  if (strange.size === 0) return null;
  const choices = [
    { value: "", label: "no gateway" },
    ...frame.gateways.map((gateway) => ({ value: gateway.id, label: gateway.label })),
  ];
  return (
    <ul className="mt-1" aria-label="Unknown MAC addresses">
      {[...strange].slice(0, 6).map((address) => (
        <li key={address} className="flex items-center gap-2">
          <span className="addr">{address}</span>
          <Pick
            aria-label={`Gateway of ${address}`}
            value={assigned[address] ?? ""}
            onChange={(gateway) => setAssigned({ ...assigned, [address]: gateway })}
            choices={choices}
          />
        </li>
      ))}
    </ul>
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
  const lost = observed.lost === 0 ? "no replies are missing" : `${observed.lost} replies are missing`;
  const sent = `${observed.sent} packets sent, one every ${Math.round(observed.spacingMs)} ms; ${lost}.`;
  if (!predicted || !report)
    return <p className="mt-2">{sent} Select an outage above to compare it with the prediction.</p>;
  const carriers = carriersOf(report, predicted);
  const { gap, carriers: ways } = compare(observed, { outageMs: predicted.outageMs, carriers });
  const named = (ids: readonly string[]) =>
    // biome-ignore lint/suspicious/noArrayIndexKey: a gateway can carry twice; its place in the order is its identity.
    ids.map((id, i) => <Carrier key={`${i} ${id}`} id={id} />);
  return (
    <div className="mt-2" data-testid="agreement">
      <p className={gap.agrees && ways.agrees ? "font-semibold" : "font-semibold text-stop"}>
        {gap.agrees && ways.agrees ? "Prediction and capture agree." : "Prediction and capture differ."}
      </p>
      <p>{sent}</p>
      <p>
        Gap: predicted {boundsText(predicted.outageMs) || "none"}, observed{" "}
        {gap.mostMs === null
          ? `from ${fineText(gap.leastMs)} s on, not restored`
          : `${fineText(gap.leastMs)}–${fineText(gap.mostMs)} s`}
        . {gap.agrees ? "They agree." : "They differ."}
      </p>
      <p className="flex flex-wrap items-center gap-1">
        Gateways: predicted {named(carriers)}; observed{" "}
        {ways.seen.length ? named(ways.seen) : "none with a known MAC address"}.{" "}
        {ways.agrees ? "They agree." : "They differ."}
      </p>
    </div>
  );
}

/** A gap as finely as packets tell it. */
function fineText(ms: number): string {
  return ms < 10_000 ? (Math.round(ms / 10) / 100).toString() : secondsText(ms);
}

/** The first gateway of each stretch that works, from before the failure on. */
function carriersOf({ before }: TimelineAnswer, { id, spans }: TimelineReport["flows"][number]): string[] {
  const list = (before[id] ?? []).slice(0, 1);
  for (const { verdict, carriers } of spans)
    if (verdict === "works" && carriers.length > 0 && list.at(-1) !== carriers[0]) list.push(carriers[0]);
  return list;
}
