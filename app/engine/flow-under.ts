import type { FlowOutcome } from "../queries/flows.ts";
import { viewOf } from "../search/view.ts";
import type { Revisions } from "./ask.client.ts";
import { type Asking, useAnswer } from "./asking.ts";

/** A flow's forward and return path with elements down on top of the page's conditions. */
export function useFlowUnder(
  of: Revisions,
  params: URLSearchParams,
  flow: string,
  failed: readonly string[],
): Omit<Asking<unknown>, "answer" | "of"> & { outcome: FlowOutcome } {
  const down = [...params.getAll("down"), ...failed];
  const { answer, ...rest } = useAnswer(of, "paths", {
    ...viewOf(new URLSearchParams()),
    down,
    asked: { flow },
  });
  return { outcome: answer?.flow ?? null, ...rest };
}
