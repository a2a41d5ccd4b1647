import { database } from "../pool.ts";
import type { Job, JobData, Queue } from "./queue.ts";

const sql = {
  /** sweep, piece, job, worker: the piece; nothing if it is done, stopped or assigned to another job */
  claimPiece: `
    update sweep_piece p set seen_at = now(), worker = $4, covered = 0, found = 0
    from sweep s
    where s.id = p.sweep and p.sweep = $1 and p.number = $2 and p.job = $3 and p.done_at is null and not s.stopped
    returning s.plan::text, s.revision, s.engine, s.down, s.depth, p.first_flow as "firstFlow", p.end_flow as "endFlow",
      p.part, p.parts`,
  /** sweep, piece, job, covered, found */
  beatPiece: `
    update sweep_piece set seen_at = now(), covered = $4, found = $5
    where sweep = $1 and number = $2 and job = $3 and done_at is null returning number`,
  /** sweep, piece, result, covered, found: the first result stands */
  finishPiece: `
    update sweep_piece set result = $3, covered = $4, found = $5, error = null, done_at = now()
    where sweep = $1 and number = $2 and done_at is null`,
  /** sweep, piece, what went wrong */
  failPiece:
    "update sweep_piece set error = $3, seen_at = null, worker = null where sweep = $1 and number = $2 and done_at is null",
  /** sweep, piece, job: taken back by its own worker */
  releasePiece: `
    update sweep_piece set seen_at = null, worker = null
    where sweep = $1 and number = $2 and job = $3 and done_at is null`,
  /** seconds after which a worker counts as lost: takes its pieces back, and tells their jobs */
  lostPieces: `
    update sweep_piece set seen_at = null, worker = null, covered = 0, found = 0
    where done_at is null and error is null and job is not null and seen_at < now() - $1 * interval '1 second' returning job`,
} as const;

type PieceJob = Job<"piece">;

/** A piece as a worker takes it. */
export interface Piece {
  readonly plan: string;
  readonly revision: number;
  readonly engine: string;
  readonly down: string[];
  readonly depth: 1 | 2 | 3;
  readonly firstFlow: number;
  readonly endFlow: number;
  /** Which part of the single failures, of how many. */
  readonly part: number;
  readonly parts: number;
}

/** Claims a job's piece; null if it needs no more work. */
export async function claimPiece({ sweep, number, id }: PieceJob, worker: string): Promise<Piece | null> {
  return (await database().query<Piece>(sql.claimPiece, [sweep, number, id, worker])).rows[0] ?? null;
}

/** A heartbeat with the piece's progress; false if it no longer belongs to this job. */
export async function sendHeartbeat(
  { sweep, number, id }: PieceJob,
  covered: number,
  found: number,
): Promise<boolean> {
  return (await database().query(sql.beatPiece, [sweep, number, id, covered, found])).rows.length > 0;
}

export async function finishPiece(
  { sweep, number }: JobData["piece"],
  result: unknown,
  covered: number,
  found: number,
): Promise<void> {
  await database().query(sql.finishPiece, [sweep, number, JSON.stringify(result), covered, found]);
}

/** Stores why a piece failed, for those who wait. */
export async function failPiece({ sweep, number }: JobData["piece"], why: string): Promise<void> {
  await database().query(sql.failPiece, [sweep, number, why]);
}

/** Gives a piece back unfinished. */
export async function releasePiece(queue: Queue, { sweep, number, id }: PieceJob): Promise<void> {
  await database().query(sql.releasePiece, [sweep, number, id]);
  await queue.giveBack("piece", [id]);
}

/** Takes the pieces of workers that have fallen silent back into the queue; how many there were. */
export async function rescuePieces(queue: Queue, lostAfterS: number): Promise<number> {
  const { rows } = await database().query<{ job: string }>(sql.lostPieces, [lostAfterS]);
  await queue.giveBack(
    "piece",
    rows.map(({ job }) => job),
  );
  return rows.length;
}
