import type { Target, Way } from "../../live/target.ts";
import { type EditablePlan, ownPlan } from "../access/grants.ts";
import { putting } from "../jobs/putting.ts";
import type { Queue } from "../jobs/queue.ts";
import { heartbeatOf, MAX_MESSAGE } from "../jobs/runs.ts";
import { database, transaction, write } from "../pool.ts";

const sql = {
  /** trials of which nothing came */
  dropOldTrials: "delete from target where trial and made_at < now() - interval '1 day'",
  /** plan, targets or null for all, who asks: one run for each target that has none under way */
  askRuns: `
    insert into reading_run (target, asked_by)
    select id, $3 from target
    where plan = $1 and case when $2::bigint[] is null then not trial else id = any($2::bigint[]) end
    on conflict (target) where state in ('waiting', 'reading') do nothing returning id::text`,
  /** those whose interval has gone by since they were last asked for */
  askDueRuns: `
    insert into reading_run (target, asked_by)
    select t.id, 'the schedule' from target t
    where t.every_minutes is not null and not t.trial and not exists (
      select from reading_run r where r.target = t.id and r.asked_at > now() - t.every_minutes * interval '1 minute')
    on conflict (target) where state in ('waiting', 'reading') do nothing returning id::text`,
  /** plan, run */
  cancelRun: `
    update reading_run r set state = 'cancelled', ended_at = now(), told = 'cancelled' from target t
    where t.id = r.target and t.plan = $1 and r.id = $2::bigint and r.state in ('waiting', 'reading')`,
  /** run: the target and its credential; nothing if it no longer waits */
  claimRun: `
    update reading_run r set state = 'reading', started_at = now(), seen_at = now()
    from target t, credential c
    where r.id = $1::bigint and r.state = 'waiting' and t.id = r.target and c.id = t.credential
    returning t.plan::text, t.device, host(t.address) as address, t.port, t.way, t.proof, t.trial, t.id::text as "targetId",
              c.name as "credentialName", c.sealed, c.prefixes::text[] as prefixes, r.asked_by as "askedBy"`,
  /** run, state, message, differences, lines */
  endRun: `
    update reading_run set state = $2, ended_at = now(), told = $3, differences = $4, lines = $5
    where id = $1::bigint and state = 'reading'`,
  /** run, proof: the host key at first contact, to be confirmed by an administrator */
  offerProof: `
    update target t set offered_proof = $2 from reading_run r
    where r.id = $1::bigint and t.id = r.target and t.proof is null`,
  /** how many are kept of each target */
  forgetRuns: `
    delete from reading_run where id in (
      select id from (select id, row_number() over (partition by target order by id desc) as n from reading_run) r
      where n > $1)`,
} as const;

/** The heartbeat of readings. */
export const readingHeartbeat = heartbeatOf("reading_run", "reading", "the worker that read it has gone");
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
  await readingHeartbeat.failLost();
  await database().query(sql.forgetRuns, [KEPT]);
  await database().query(sql.dropOldTrials);
  return putRuns(queue, sql.askDueRuns, []);
}

async function putRuns(queue: Queue, statement: string, values: unknown[]): Promise<number> {
  return transaction(async (client) => {
    const { rows } = await client.query<{ id: string }>(statement, values);
    await queue.put(
      client,
      "reading",
      rows.map(({ id }) => ({ run: id })),
    );
    return rows.length;
  });
}

/** Ends a reading that waits or is under way. */
export async function cancelRun(plan: EditablePlan, run: string): Promise<void> {
  await write(sql.cancelRun, [plan, run]);
}

/** A claimed run: its target and credential. */
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
  await database().query(sql.endRun, [run, state, told.slice(0, MAX_MESSAGE), differences, lines]);
}

/** Keeps the key that a device showed at its first contact, until an administrator confirms it. */
export async function offerProof(run: string, proof: string): Promise<void> {
  await database().query(sql.offerProof, [run, proof]);
}
