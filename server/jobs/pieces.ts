import { database } from "../pool.ts";
import { sql } from "../sql.ts";
import type { PieceJob, Queue } from "./queue.ts";

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

type Job = PieceJob & { id: string };

/** Takes a job's piece; null where there is nothing left to do for it. */
export async function claimPiece({ sweep, number, id }: Job, worker: string): Promise<Piece | null> {
  return (await database().query<Piece>(sql.claimPiece, [sweep, number, id, worker])).rows[0] ?? null;
}

/** A sign of life with how far the piece is; false where it is no longer this job's. */
export async function beatPiece(
  { sweep, number, id }: Job,
  covered: number,
  found: number,
): Promise<boolean> {
  return (await database().query(sql.beatPiece, [sweep, number, id, covered, found])).rows.length > 0;
}

export async function finishPiece(
  { sweep, number }: PieceJob,
  result: unknown,
  covered: number,
  found: number,
): Promise<void> {
  await database().query(sql.finishPiece, [sweep, number, JSON.stringify(result), covered, found]);
}

/** Keeps why a piece could not be worked out, for those who wait. */
export async function failPiece({ sweep, number }: PieceJob, why: string): Promise<void> {
  await database().query(sql.failPiece, [sweep, number, why]);
}

/** Gives a piece back unfinished. */
export async function releasePiece(queue: Queue, { sweep, number, id }: Job): Promise<void> {
  await database().query(sql.releasePiece, [sweep, number, id]);
  await queue.giveBack([id]);
}

/** Takes the pieces of workers that have fallen silent back into the queue; how many there were. */
export async function rescuePieces(queue: Queue, lostAfterS: number): Promise<number> {
  const { rows } = await database().query<{ job: string }>(sql.lostPieces, [lostAfterS]);
  await queue.giveBack(rows.map(({ job }) => job));
  return rows.length;
}
