import { ownAddresses } from "./device.ts";
import type { Prepared } from "./engines.ts";
import type { Asked, FlowOutcome } from "./flows.ts";
import { type Frame, frameOf } from "./frame.ts";
import { chosenFlow } from "./map.ts";

export interface PathsAnswer {
  frame: Frame;
  flow: FlowOutcome;
  /** The sender's own addresses, to choose the source from. */
  sources: string[];
}

/** The way there and the way back. */
export function pathsAnswer(prepared: Prepared, down: readonly string[], asked: Asked): PathsAnswer {
  const flow = chosenFlow(prepared, down, asked);
  const from = (flow?.ok ? flow.answer.asked.from : asked.from) ?? "";
  return { frame: frameOf(prepared, down), flow, sources: ownAddresses(prepared, from.split("/")[0]) };
}
