import type { FlowCheck } from "../../../core/steps/index.ts";

/** A flow's result, as a predicate. */
export const flowWords: Record<FlowCheck["verdict"], string> = {
  works: "works",
  "one-way": "arrives, but gets no reply",
  fails: "does not arrive",
  unknown: "leaves the modeled network",
};
