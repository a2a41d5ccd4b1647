import { knownOf } from "../plan/known.ts";
import type { AnswerName, AnswerOf } from "../queries/answer.ts";
import { viewOf } from "../search/view.ts";
import { askWorker } from "./ask.client.ts";
import type { Page } from "./page.server.ts";

/**
 * Answers a page in the browser: the worker computes, no request to the server. The first page of a
 * visit, and anything that the worker cannot answer, comes from the server.
 */
export async function askPage<N extends AnswerName>(
  request: Request,
  planId: string,
  name: N,
  device: string,
  fromServer: () => Promise<Page<AnswerOf<N>>>,
): Promise<Page<AnswerOf<N>>> {
  const known = knownOf(planId);
  if (!known) return fromServer();
  const view = viewOf(new URL(request.url).searchParams, device);
  const found = await askWorker(name, known, view).catch(() => null);
  if (found === null) return fromServer();
  return { ...known, view, answer: found as NonNullable<AnswerOf<N>> };
}
