import { ownPlan } from "../server/access/grants.ts";
import { engineVersion } from "../server/jobs/engine.ts";
import { claimPiece, failPiece, finishPiece, releasePiece, sendHeartbeat } from "../server/jobs/pieces.ts";
import type { Queue } from "../server/jobs/queue.ts";
import { log } from "../server/log.ts";
import { documentOf } from "../server/plans.ts";
import { Thread } from "./thread.ts";

const BEAT_EVERY_MS = 1000;
const LOOK_EVERY_MS = 400;
/** How long a piece of another engine's is left lying before it is looked at again. */
const STRANGE_REST_MS = 2000;

const rest = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/** Takes one piece after another until `stopped`; an unfinished piece is then released. */
export async function workOnPieces(queue: Queue, name: string, stopped: AbortSignal): Promise<void> {
  const thread = new Thread();
  while (!stopped.aborted) {
    try {
      const job = await queue.take();
      if (!job) await rest(LOOK_EVERY_MS);
      else await workOut(queue, job, name, thread, stopped);
    } catch (error) {
      // The database may be unreachable for a moment; the missing heartbeat releases the piece.
      log.error({ error: String(error) }, "a piece failed");
      await rest(LOOK_EVERY_MS * 5);
    }
  }
  await thread.stop();
}

type Job = NonNullable<Awaited<ReturnType<Queue["take"]>>>;

async function workOut(queue: Queue, job: Job, name: string, thread: Thread, stopped: AbortSignal) {
  const piece = await claimPiece(job, name);
  if (!piece) return queue.done(job.id);
  if (piece.engine !== engineVersion) {
    await releasePiece(queue, job);
    return rest(STRANGE_REST_MS);
  }
  let [covered, found] = [0, 0];
  let mine = true;
  const beat = setInterval(async () => {
    mine = await sendHeartbeat(job, covered, found).catch(() => mine);
    if (!mine || stopped.aborted) await thread.stop();
  }, BEAT_EVERY_MS);
  try {
    const told = await thread.run(
      { ...piece, key: `${piece.plan} ${piece.revision}` },
      () => documentOf(ownPlan(piece.plan), piece.revision),
      (c, f) => {
        [covered, found] = [c, f];
      },
    );
    if (told?.kind === "done") {
      await finishPiece(job, told.result, told.covered, told.found);
      await queue.done(job.id);
    } else if (told?.kind === "failed") {
      log.error({ sweep: job.sweep, piece: job.number, error: told.message }, "a piece cannot be computed");
      await failPiece(job, told.message);
      await queue.done(job.id);
    } else if (mine) await releasePiece(queue, job);
  } finally {
    clearInterval(beat);
  }
}
