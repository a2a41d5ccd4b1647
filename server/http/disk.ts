import { statfs } from "node:fs/promises";
import type { RequestHandler } from "express";
import { DISK_FULL } from "../pool.ts";
import { refuse } from "./refuse.ts";

/** Below so much free space nothing is written: the database ends where it cannot write on. */
const MIN_FREE_BYTES = 48 * 1024 * 1024;
/** How long a look at the disk holds. */
const LOOK_EVERY_MS = 1000;

/** Refuses modifications while a disk is full; reading continues. `folders` are those of the database and the log, if
 * they are on this machine. */
export function whileThereIsSpace(folders: readonly string[]): RequestHandler {
  let looked = { atMs: Number.NEGATIVE_INFINITY, full: false };
  const isFull = async () => {
    if (performance.now() - looked.atMs < LOOK_EVERY_MS) return looked.full;
    const free = await Promise.all(folders.map(freeBytes));
    looked = { atMs: performance.now(), full: free.some((bytes) => bytes < MIN_FREE_BYTES) };
    return looked.full;
  };
  return async (req, res, next) => {
    if (req.method !== "POST" || !(await isFull())) return next();
    const { status, sentence } = DISK_FULL;
    refuse(res, status, sentence);
  };
}

/** Free bytes on a folder's disk; infinite if unknown. */
async function freeBytes(folder: string): Promise<number> {
  try {
    const { bavail, bsize } = await statfs(folder);
    return bavail * bsize;
  } catch {
    return Number.POSITIVE_INFINITY;
  }
}
