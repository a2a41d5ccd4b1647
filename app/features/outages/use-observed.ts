import { useMemo, useState } from "react";
import { exchangesOf, type Observed, observedOf } from "../../../exchange/capture/index.ts";
import { useAsking } from "../../engine/asking.ts";
import type { PlanHead } from "../../plan/head.ts";
import type { TimelineAnswer } from "../../queries/asks.ts";
import type { Witnesses } from "../../queries/witnesses.ts";
import { type LoadedCapture, useCapture } from "./capture.ts";

/** What a capture shows of a flow, in the time of the outage. */
export interface ObservedFlow {
  flow: string;
  observed: Observed;
}

/** The observations of a capture beside the prediction: one conversation, by hardware address and silence. `seen` is
 * drawn; `onSeen` selects the content. */
export function useObserved(page: PlanHead, report: TimelineAnswer | null) {
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
    // By default, the failure is at the start of the first silence.
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
    (): ObservedFlow | null =>
      followed && predicted ? { flow: followed.flow, observed: followed.observed } : null,
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

export type Observing = ReturnType<typeof useObserved>;
