import type { FlowCheck } from "../../../core/steps/index.ts";

/** What becomes of a flow, after "it". */
export const flowWords: Record<FlowCheck["verdict"], string> = {
  works: "works",
  "one-way": "arrives, and gets no answer",
  fails: "does not arrive",
  unknown: "is not known",
};
