import { headOf, type PlanHead, shownOf } from "../plan/head.ts";
import type { AnswerName, AnswerOf } from "../queries/answer.ts";
import { type PackedFrame, packFrame } from "../queries/packed-frame.ts";
import { viewOf } from "../search/view.ts";
import { askWorker } from "./ask.client.ts";
import type { PageAnswer } from "./page.server.ts";
import { Replaced } from "./replaced.ts";

/** The server answers instead. A failure of the worker shows in the browser's console; one that was replaced by a newer question is none. */
function leftToServer(error: unknown): null {
  if (!(error instanceof Replaced)) console.error("The worker could not answer a page:", error);
  return null;
}

/**
 * Answers a page in the browser: the worker computes, no request to the server. The first page of a
 * visit, and anything that the worker cannot answer, comes from the server.
 */
export async function askPage<N extends AnswerName>(
  request: Request,
  planId: string,
  name: N,
  device: string,
  fromServer: () => Promise<PageAnswer<AnswerOf<N>>>,
): Promise<PageAnswer<AnswerOf<N>>> {
  const known = headOf(planId);
  if (!known) return fromServer();
  const view = viewOf(new URL(request.url).searchParams, device);
  const shown = shownOf(known, view.revision);
  const found = shown && (await askWorker(name, shown, view).catch(leftToServer));
  if (!shown || found === null) return fromServer();
  return { planId, revision: shown.revision, view, answer: found as NonNullable<AnswerOf<N>> };
}

/** The same for what stays in sight on all pages of a plan. */
export async function askFrame(
  request: Request,
  planId: string,
  fromServer: () => Promise<{ page: PlanHead; frame: PackedFrame }>,
): Promise<{ page: PlanHead; frame: PackedFrame }> {
  const known = headOf(planId);
  if (!known) return fromServer();
  const view = viewOf(new URL(request.url).searchParams);
  const page = shownOf(known, view.revision);
  const frame = page && (await askWorker("frame", page, view).catch(leftToServer));
  return page && frame ? { page, frame: packFrame(frame) } : fromServer();
}
