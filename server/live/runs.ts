import type { Target, Way } from "../../live/target.ts";
import { type EditablePlan, ownPlan } from "../access/grants.ts";
import { putting } from "../jobs/putting.ts";
import type { Queue } from "../jobs/queue.ts";
import { database, transaction, write } from "../pool.ts";
import { sql } from "../sql.ts";

/** A reader that was silent for so long, in seconds, has died. */
const LOST_AFTER_S = 30;
/** Runs kept of a target. */
const KEPT = 20;

/** Asks for readings: of the targets named, or of all of a plan. Gives how many were not under way already. */
export async function askReadings(
  plan: EditablePlan,
  targets: readonly string[] | null,
  by: string,
): Promise<number> {
  return putRuns(await putting(), sql.askRuns, [plan, targets, by]);
}

/** Asks for the readings that are due by their own interval. */
export async function askDue(queue: Queue): Promise<number> {
  await database().query(sql.failLostRuns, [LOST_AFTER_S]);
  await database().query(sql.forgetRuns, [KEPT]);
  await database().query(sql.dropOldTrials);
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
export async function cancelRun(plan: EditablePlan, run: string): Promise<void> {
  await write(sql.cancelRun, [plan, run]);
}

/** A run that is taken on: what is read, and with what. */
export interface Claimed {
  readonly plan: EditablePlan;
  readonly target: Target;
  readonly targetId: string;
  readonly credentialName: string;
  readonly sealed: Buffer;
  /** Addresses that the credential may be sent to. */
  readonly prefixes: readonly string[];
  readonly askedBy: string;
  /** Whether the device is only tested. */
  readonly trial: boolean;
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
    prefixes: string[];
    askedBy: string;
    trial: boolean;
  }
  const { rows } = await database().query<Row & Record<string, unknown>>(sql.claimRun, [run]);
  const [row] = rows;
  if (!row) return null;
  const { plan, device, address, port, way, proof, targetId } = row;
  const { credentialName, sealed, prefixes, askedBy, trial } = row;
  return {
    plan: ownPlan(plan),
    target: { device, address, port, way, proof },
    targetId,
    credentialName,
    sealed,
    prefixes,
    askedBy,
    trial,
  };
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
  },
): Promise<void> {
  const { state, told, differences = null, lines = null } = end;
  await database().query(sql.endRun, [run, state, told.slice(0, 500), differences, lines]);
}

/** Keeps the key that a device showed at its first contact, until an administrator confirms it. */
export async function offerProof(run: string, proof: string): Promise<void> {
  await database().query(sql.offerProof, [run, proof]);
}
