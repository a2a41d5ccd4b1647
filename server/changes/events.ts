import { setTimeout as rest } from "node:timers/promises";
import type { ReadablePlan } from "../access/grants.ts";
import { markOf } from "./changes.ts";

const LOOK_EVERY_MS = 700;
/** A word now and then, so that no proxy on the way takes the silence for the end. */
const WORD_EVERY = 20;

/** Notifies followers of a change about any modification, as server-sent events; null if there is no such change.
 * Clients then reload the data. */
export async function changeEvents(
  plan: ReadablePlan,
  number: string,
  signal: AbortSignal,
): Promise<AsyncGenerator<string> | null> {
  const first = await markOf(plan, number);
  return first === null ? null : eventsFrom(first, plan, number, signal);
}

async function* eventsFrom(first: string, plan: ReadablePlan, number: string, signal: AbortSignal) {
  let last = "";
  try {
    for (let round = 0, now: string | null = first; now !== null && !signal.aborted; round++) {
      if (now !== last) yield `event: changed\ndata: ${JSON.stringify(now)}\n\n`;
      else if (round % WORD_EVERY === 0) yield ": nothing new\n\n";
      last = now;
      await rest(LOOK_EVERY_MS, undefined, { signal });
      now = await markOf(plan, number);
    }
  } catch {
    // The page was closed, or the database failed: the browser reconnects if it is still open.
  }
}
