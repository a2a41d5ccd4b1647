import { useEffect, useRef, useState } from "react";
import type { AskArgs, AskName, AskOf } from "../queries/asks.ts";
import { askPlan, Replaced, type Revisions } from "./ask.client.ts";

export interface Asking<T> {
  /** The latest answer, which may be to an earlier question while `pending`. */
  answer: T | null;
  /** The arguments that the answer is to, as JSON. */
  of: string;
  pending: boolean;
  error: string;
}

/**
 * Asks the plan anew whenever the arguments or the plan change; nothing while `args` is null. `kind` tells
 * apart questions of one name that are open at the same time; `afterMs` waits until the arguments have rested
 * so long.
 */
export function useAsking<N extends AskName>(
  page: Revisions,
  name: N,
  args: AskArgs<N> | null,
  { kind, afterMs = 0 }: { kind?: string; afterMs?: number } = {},
): Asking<AskOf<N>> {
  const { planId, revision, approved } = page;
  const key = args === null ? "" : JSON.stringify(args);
  const [state, setState] = useState<Asking<AskOf<N>>>({ answer: null, of: "", pending: false, error: "" });
  const latest = useRef(args);
  latest.current = args;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the arguments are told apart by their text, and a new revision asks again.
  useEffect(() => {
    const now = latest.current;
    if (now === null) {
      setState({ answer: null, of: "", pending: false, error: "" });
      return;
    }
    let current = true;
    setState((before) => ({ ...before, pending: true, error: "" }));
    const send = () =>
      askPlan({ planId, revision, approved }, name, now, kind).then(
        (answer) => current && setState({ answer, of: key, pending: false, error: "" }),
        (error) =>
          current &&
          !(error instanceof Replaced) &&
          setState({ answer: null, of: key, pending: false, error: String(error.message ?? error) }),
      );
    const timer = afterMs > 0 ? setTimeout(send, afterMs) : null;
    if (timer === null) send();
    return () => {
      current = false;
      if (timer !== null) clearTimeout(timer);
    };
  }, [planId, revision, name, key, kind]);
  return state;
}
