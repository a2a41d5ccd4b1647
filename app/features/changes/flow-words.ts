import type { FlowCheck } from "../../../core/steps/index.ts";

/** What becomes of a flow, after "it". */
export const flowWords: Record<FlowCheck["verdict"], string> = {
  works: "works",
  "one-way": "arrives, but gets no reply",
  fails: "does not arrive",
  unknown: "leaves the modeled network",
};
