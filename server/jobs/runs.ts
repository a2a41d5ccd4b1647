import { database } from "../pool.ts";

/** A worker without a heartbeat for this time, in seconds, has died: its run has failed. */
const LOST_AFTER_S = 30;
/** The most characters of a message that are stored. */
export const MAX_MESSAGE = 500;

/**
 * The heartbeat of runs that are never repeated: readings and rehearsals.
 *
 * @param table with the columns id, state, seen_at, ended_at and told
 * @param running the state of a run that a worker has
 * @param lost the message of a run whose worker has died
 */
export function heartbeatOf(table: "reading_run" | "rehearsal", running: string, lost: string) {
  const sql = {
    /** run, its current activity */
    beat: `update ${table} set seen_at = now(), told = $2 where id = $1::bigint and state = '${running}'`,
    /** seconds without a heartbeat */
    failLost: `
      update ${table} set state = 'failed', ended_at = now(), told = '${lost}'
      where state = '${running}' and seen_at < now() - $1 * interval '1 second'`,
  };
  return {
    /** Stores the current activity; false if the run was cancelled meanwhile. */
    async beat(id: string, activity: string): Promise<boolean> {
      const { rowCount } = await database().query(sql.beat, [id, activity.slice(0, MAX_MESSAGE)]);
      return (rowCount ?? 0) > 0;
    },
    async failLost(): Promise<void> {
      await database().query(sql.failLost, [LOST_AFTER_S]);
    },
  };
}
