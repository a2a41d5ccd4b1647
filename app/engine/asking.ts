import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { AnswerName, AnswerOf } from "../queries/answer.ts";
import type { AskArgs, AskName, AskOf } from "../queries/asks.ts";
import type { View } from "../search/view.ts";
import { viewOf } from "../search/view.ts";
import { askPlan, askWorker, type Revisions } from "./ask.client.ts";
import { Replaced } from "./replaced.ts";

export interface Asking<T> {
  /** The latest answer, which may be to an earlier question while `pending`. */
  answer: T | null;
  /** The arguments that the answer is to, as JSON. */
  of: string;
  pending: boolean;
  /** Why it could not be answered; "" where it could. */
  error: string;
  /** Asks once more after an error. */
  retry: () => void;
}

/** Whether a text has been unchanged for `afterMs`. */
function useRested(text: string, afterMs: number): boolean {
  const [rested, setRested] = useState(afterMs === 0 ? text : "");
  useEffect(() => {
    if (afterMs === 0) return;
    const timer = setTimeout(() => setRested(text), afterMs);
    return () => clearTimeout(timer);
  }, [text, afterMs]);
  return afterMs === 0 || rested === text;
}

/**
 * Asks the plan anew whenever the arguments or the plan change; nothing while `args` is null. `kind` tells
 * apart questions of one name that are open at the same time; `afterMs` waits until the arguments have rested
 * so long.
 */
export function useAsking<N extends AskName>(
  of: Revisions,
  name: N,
  args: AskArgs<N> | null,
  { kind, afterMs = 0 }: { kind?: string; afterMs?: number } = {},
): Asking<AskOf<N>> {
  const key = args === null ? "" : JSON.stringify(args);
  const rested = useRested(key, afterMs);
  return useCached(
    [of.planId, of.revision, of.approved, name, key],
    args !== null && rested,
    args === null,
    async () => ({ answer: await askPlan(of, name, args as AskArgs<N>, kind), of: key }),
  );
}

/** Asks a page's question about another view of the plan than the page's own. */
export function useAnswer<N extends AnswerName>(of: Revisions, name: N, view: View): Asking<AnswerOf<N>> {
  const key = JSON.stringify(view);
  return useCached([of.planId, of.revision, of.approved, `page ${name}`, key], true, false, async () => ({
    answer: await askWorker(name, of, view, key),
    of: key,
  }));
}

/** The possible meanings of the question field's text under the page's conditions; empty without text. */
export function useQuestion(of: Revisions, params: URLSearchParams, here: string | undefined, text: string) {
  const view = { ...viewOf(params, here), text };
  const asked = text.trim() !== "";
  const key = JSON.stringify(view);
  return useCached([of.planId, of.revision, of.approved, "question", key], asked, !asked, async () => ({
    answer: await askWorker("question", of, view),
    of: text,
  }));
}

function useCached<T>(
  queryKey: readonly unknown[],
  enabled: boolean,
  nothing: boolean,
  queryFn: () => Promise<{ answer: T; of: string }>,
): Asking<T> {
  const query = useQuery({ queryKey, queryFn, enabled, placeholderData: keepPreviousData });
  const replaced = query.error instanceof Replaced;
  const error = query.error && !replaced && !nothing ? query.error.message : "";
  return {
    answer: nothing || error !== "" ? null : (query.data?.answer ?? null),
    of: nothing ? "" : (query.data?.of ?? ""),
    pending: !nothing && error === "" && (query.isPending || query.isPlaceholderData || replaced),
    error,
    retry: () => void query.refetch(),
  };
}
