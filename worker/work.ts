import { setTimeout as rest } from "node:timers/promises";
import { ownPlan } from "../server/access/grants.ts";
import { consume, withHeartbeat } from "../server/jobs/consume.ts";
import { engineVersion } from "../server/jobs/engine.ts";
import { claimPiece, failPiece, finishPiece, releasePiece, sendHeartbeat } from "../server/jobs/pieces.ts";
import type { Job, Queue } from "../server/jobs/queue.ts";
import { log } from "../server/log.ts";
import { documentOf } from "../server/plans.ts";
import { Thread } from "./thread.ts";

/** How long a piece for another engine version is left alone, in milliseconds. */
const OTHER_ENGINE_MS = 2000;

/** Takes one piece after another until `stopped`; an unfinished piece is then released. */
export async function workOnPieces(queue: Queue, name: string, stopped: AbortSignal): Promise<void> {
  const thread = new Thread();
  await consume(queue, "piece", 1, stopped, (job) => compute(queue, job, name, thread, stopped));
  await thread.stop();
}

async function compute(queue: Queue, job: Job<"piece">, name: string, thread: Thread, stopped: AbortSignal) {
  const piece = await claimPiece(job, name);
  if (!piece) return queue.done("piece", job.id);
  if (piece.engine !== engineVersion) {
    await releasePiece(queue, job);
    await rest(OTHER_ENGINE_MS, undefined, { signal: stopped }).catch(() => undefined);
    return;
  }
  let [covered, found] = [0, 0];
  const beat = () => sendHeartbeat(job, covered, found);
  const result = await withHeartbeat(beat, stopped, (signal) => {
    signal.addEventListener("abort", () => void thread.stop(), { once: true });
    return thread.run(
      { ...piece, key: `${piece.plan} ${piece.revision}` },
      () => documentOf(ownPlan(piece.plan), piece.revision),
      (c, f) => {
        [covered, found] = [c, f];
      },
    );
  });
  if (result?.kind === "done") {
    await finishPiece(job, result.result, result.covered, result.found);
    await queue.done("piece", job.id);
  } else if (result?.kind === "failed") {
    log.error({ sweep: job.sweep, piece: job.number, error: result.message }, "a piece cannot be computed");
    await failPiece(job, result.message);
    await queue.done("piece", job.id);
  } else if (stopped.aborted) await releasePiece(queue, job);
}
