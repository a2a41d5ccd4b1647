import { stageOf } from "../core/plan/index.ts";
import type { ReadablePlan } from "./access/grants.ts";
import { engineVersion } from "./jobs/engine.ts";
import { errorText, log } from "./log.ts";
import { database } from "./pool.ts";

const sql = {
  /** plan id, revision number, engine, what */
  workedOut: "select value from worked_out where plan = $1 and revision = $2 and engine = $3 and what = $4",
  /** plan id, revision number, engine, what, value: kept for the latest revisions only */
  keepWorkedOut: `
    with outdated as (delete from worked_out where plan = $1 and (revision < $2 - 20 or engine <> $3))
    insert into worked_out (plan, revision, engine, what, value) values ($1, $2, $3, $4, $5) on conflict do nothing`,
} as const;

/** Characters up to which a value is kept: larger ones cost more to fetch than they save. */
const MAX_KEPT = 8 * 1024 * 1024;

/** A revision's cached value for this engine version, computed and stored on first use. */
export async function cachedResult<T>(
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
