import { Subscription, type Wanted } from "./notifications.ts";

/** The longest wait without a notification: in case one was lost, and so that no proxy ends a silent connection. */
const FALLBACK_MS = 5000;
/** The shortest time between two events, in milliseconds. */
const GAP_MS = 200;

/** One state of what a stream shows: the text to send, and whether it is the last. */
export interface StreamState {
  readonly data: string;
  readonly isLast: boolean;
}

export const EVENT_HEADERS = {
  "Content-Type": "text/event-stream; charset=utf-8",
  // Compressing would hold the events back.
  "Cache-Control": "no-cache, no-transform",
  "X-Accel-Buffering": "no",
};

/**
 * A state as server-sent events: the first, and each later one that differs, until the last, or until `signal` aborts.
 *
 * @param name the events' name
 * @param topics notifications after which the state may differ
 * @param read the current state; null if its item does not exist
 * @returns null if the item does not exist
 */
export async function eventStream(
  name: string,
  topics: readonly Wanted[],
  read: () => Promise<StreamState | null>,
  signal: AbortSignal,
): Promise<AsyncGenerator<string> | null> {
  const first = await read();
  return first && eventsFrom(first, name, topics, read, signal);
}

async function* eventsFrom(
  first: StreamState,
  name: string,
  topics: readonly Wanted[],
  read: () => Promise<StreamState | null>,
  signal: AbortSignal,
) {
  const news = new Subscription(topics);
  let last = "";
  try {
    for (let now: StreamState | null = first; now && !signal.aborted; now = await read()) {
      yield now.data === last ? ": no change\n\n" : `event: ${name}\ndata: ${now.data}\n\n`;
      last = now.data;
      if (now.isLast) return;
      await new Promise((resolve) => setTimeout(resolve, GAP_MS));
      await news.next(FALLBACK_MS, signal);
    }
  } catch {
    // The page was closed, or the database failed: the browser reconnects if it is still open.
  } finally {
    news.close();
  }
}
