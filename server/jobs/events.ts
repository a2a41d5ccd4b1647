import { setTimeout as rest } from "node:timers/promises";
import type { ReadablePlan } from "../access/grants.ts";
import { type SweepProgress, sweepProgress } from "./sweeps.ts";

const LOOK_EVERY_MS = 400;
/** A word now and then, so that no proxy on the way takes the silence for the end. */
const WORD_EVERY = 25;

/** A sweep's progress as server-sent events, until it is done, stopped or failed; null if there is no such sweep. */
export async function sweepEvents(
  plan: ReadablePlan,
  sweep: string,
  signal: AbortSignal,
): Promise<AsyncGenerator<string> | null> {
  const first = await sweepProgress(plan, sweep);
  return first && eventsFrom(first, plan, sweep, signal);
}

async function* eventsFrom(first: SweepProgress, plan: ReadablePlan, sweep: string, signal: AbortSignal) {
  let last = "";
  try {
    for (let round = 0, now: SweepProgress | null = first; now && !signal.aborted; round++) {
      const told = JSON.stringify(now);
      if (told !== last) yield `event: progress\ndata: ${told}\n\n`;
      else if (round % WORD_EVERY === 0) yield ": still at it\n\n";
      last = told;
      if (now.stopped || now.error !== null || now.done === now.pieces) return;
      await rest(LOOK_EVERY_MS, undefined, { signal });
      now = await sweepProgress(plan, sweep);
    }
  } catch {
    // The page was closed, or the database failed: the browser reconnects if it is still open.
  }
}

export const EVENT_HEADERS = {
  "Content-Type": "text/event-stream; charset=utf-8",
  // Compressing would hold the events back.
  "Cache-Control": "no-cache, no-transform",
  "X-Accel-Buffering": "no",
};
