import { useEffect, useState } from "react";
import type { Known } from "../plan/known.ts";
import type { FlowOutcome } from "../queries/flows.ts";
import { viewOf } from "../search/view.ts";
import { askWorker } from "./ask.client.ts";

/** A flow's way there and back with elements down on top of the page's conditions; null until it is answered. */
export function useFlowUnder(
  page: Known,
  params: URLSearchParams,
  flow: string,
  failed: readonly string[],
): FlowOutcome {
  const [outcome, setOutcome] = useState<FlowOutcome>(null);
  const down = [...params.getAll("down"), ...failed];
  const key = down.join(" ");
  // biome-ignore lint/correctness/useExhaustiveDependencies: the failed elements are told apart by their text.
  useEffect(() => {
    let current = true;
    askWorker("paths", page, { ...viewOf(params), moment: null, down, asked: { flow } }).then(
      (found) => current && setOutcome(found.flow),
      () => {},
    );
    return () => {
      current = false;
    };
  }, [page.planId, page.revision, flow, key]);
  return outcome;
}
