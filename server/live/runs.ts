import type { Target, Way } from "../../live/target.ts";
import { putting } from "../jobs/putting.ts";
import type { Queue } from "../jobs/queue.ts";
import { isPlanId } from "../plans.ts";
import { database, transaction } from "../pool.ts";
import { sql } from "../sql.ts";

/** A reader that was silent for so long, in seconds, has died. */
const LOST_AFTER_S = 30;
/** Runs kept of a target. */
const KEPT = 20;

/** Asks for readings: of the targets named, or of all of a plan. Gives how many were not under way already. */
export async function askReadings(
  plan: string,
  targets: readonly string[] | null,
  by: string,
): Promise<number> {
  if (!isPlanId(plan)) return 0;
  return putRuns(await putting(), sql.askRuns, [plan, targets, by]);
}

/** Asks for the readings that are due by their own interval. */
export async function askDue(queue: Queue): Promise<number> {
  await database().query(sql.failLostRuns, [LOST_AFTER_S]);
  await database().query(sql.forgetRuns, [KEPT]);
  return putRuns(queue, sql.askDueRuns, []);
}

async function putRuns(queue: Queue, statement: string, values: unknown[]): Promise<number> {
  return transaction(async (client) => {
    const { rows } = await client.query<{ id: string }>(statement, values);
    await queue.putReadings(
      client,
      rows.map(({ id }) => id),
    );
    return rows.length;
  });
}

/** Ends a reading that waits or is under way. */
export async function cancelRun(plan: string, run: string): Promise<void> {
  await database().query(sql.cancelRun, [plan, run]);
}

/** A run that is taken on: what is read, and with what. */
export interface Claimed {
  readonly plan: string;
  readonly target: Target;
  readonly targetId: string;
  readonly credentialName: string;
  readonly sealed: Buffer;
  readonly askedBy: string;
}

/** Takes a run on; null where it was cancelled, or another reader has it. */
export async function claimRun(run: string): Promise<Claimed | null> {
  interface Row {
    plan: string;
    device: string;
    address: string;
    port: number;
    way: Way;
    proof: string | null;
    targetId: string;
    credentialName: string;
    sealed: Buffer;
    askedBy: string;
  }
  const { rows } = await database().query<Row & Record<string, unknown>>(sql.claimRun, [run]);
  const [row] = rows;
  if (!row) return null;
  const { plan, device, address, port, way, proof, targetId, credentialName, sealed, askedBy } = row;
  return { plan, target: { device, address, port, way, proof }, targetId, credentialName, sealed, askedBy };
}

/** Says how far it is; false where it was cancelled meanwhile. */
export async function beatRun(run: string, told: string): Promise<boolean> {
  return ((await database().query(sql.beatRun, [run, told.slice(0, 500)])).rowCount ?? 0) > 0;
}

/** Ends a run; one that was cancelled stays so. */
export async function endRun(
  run: string,
  end: {
    state: "read" | "failed";
    told: string;
    differences?: number;
    lines?: number;
    proof?: string | null;
  },
): Promise<void> {
  const { state, told, differences = null, lines = null, proof = null } = end;
  await database().query(sql.endRun, [run, state, told.slice(0, 500), differences, lines]);
  if (proof !== null) await database().query(sql.keepProof, [run, proof]);
}
