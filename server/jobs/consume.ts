import { setTimeout as rest } from "node:timers/promises";
import { errorText, log } from "../log.ts";
import { Subscription, type Topic } from "./notifications.ts";
import type { Job, JobKind, Queue } from "./queue.ts";

/** The longest wait without a notification, in milliseconds: in case one was lost. */
const FALLBACK_MS = 5000;
/** Wait after a failure, in milliseconds: the database may be unreachable for a moment. */
const FAILED_MS = 2000;
const HEARTBEAT_MS = 1000;

const topics: Readonly<Record<JobKind, Topic>> = {
  piece: "sweep",
  reading: "reading",
  rehearsal: "rehearsal",
};

/** Handles jobs of a kind, at most `atOnce` at a time, until `stopped`; then waits for those in progress. */
export async function consume<K extends JobKind>(
  queue: Queue,
  kind: K,
  atOnce: number,
  stopped: AbortSignal,
  handle: (job: Job<K>) => Promise<void>,
): Promise<void> {
  const news = new Subscription([topics[kind]]);
  const inProgress = new Set<Promise<void>>();
  const failed = async (error: unknown) => {
    // Only an error's type: its message could quote a device's answer or a credential.
    log.error({ error: error instanceof Error ? error.name : "unknown" }, `a ${kind} failed`);
    await rest(FAILED_MS, undefined, { signal: stopped }).catch(() => undefined);
  };
  while (!stopped.aborted) {
    try {
      const job = inProgress.size < atOnce ? await queue.take(kind) : null;
      if (job) {
        const work = handle(job)
          .catch(failed)
          .finally(() => inProgress.delete(work));
        inProgress.add(work);
      } else await Promise.race([news.next(FALLBACK_MS, stopped), ...inProgress]);
    } catch (error) {
      await failed(error);
    }
  }
  news.close();
  await Promise.all(inProgress);
}

/**
 * Runs work with a heartbeat. The work's signal aborts when `stopped` does, or when a heartbeat says that the job was
 * cancelled or given to another worker.
 *
 * @param beat stores the heartbeat; false if the job is no longer this worker's
 */
export async function withHeartbeat<T>(
  beat: () => Promise<boolean>,
  stopped: AbortSignal,
  work: (signal: AbortSignal) => Promise<T>,
): Promise<T> {
  const lost = new AbortController();
  const timer = setInterval(async () => {
    const isMine = await beat().catch((error) => {
      log.warn({ error: errorText(error) }, "a heartbeat could not be stored");
      return true;
    });
    if (!isMine) lost.abort();
  }, HEARTBEAT_MS);
  try {
    return await work(AbortSignal.any([stopped, lost.signal]));
  } finally {
    clearInterval(timer);
  }
}
