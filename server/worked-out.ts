import { stageOf } from "../core/plan/index.ts";
import type { ReadablePlan } from "./access/grants.ts";
import { engineVersion } from "./jobs/engine.ts";
import { errorText, log } from "./log.ts";
import { database } from "./pool.ts";
import { sql } from "./sql.ts";

/** Characters up to which a value is kept: larger ones cost more to fetch than they save. */
const MAX_KEPT = 8 * 1024 * 1024;

/** A value of a revision: as it was worked out before by this version of the engine, else worked out now and kept. */
export async function workedOut<T>(
  plan: ReadablePlan,
  revision: number,
  what: string,
  make: () => T | Promise<T>,
): Promise<T> {
  // Of a plan in the middle of a change nothing is kept: it is looked at for a night.
  if (stageOf(revision)) return make();
  const key = [plan, revision, engineVersion, what];
  const { rows } = await database().query<{ value: T }>(sql.workedOut, key);
  if (rows[0]) return rows[0].value;
  const value = await make();
  const text = JSON.stringify(value);
  if (text.length <= MAX_KEPT) {
    // The answer does not fail with its keeping.
    await database()
      .query(sql.keepWorkedOut, [...key, text])
      .catch((error) => log.warn({ error: errorText(error) }, "a computed answer could not be saved"));
  }
  return value;
}
