import type { Outage } from "../core/plan/index.ts";
import type { Rehearsal } from "../lab/rehearsal/result.ts";
import { type EditablePlan, isPlanId, type ReadablePlan } from "./access/grants.ts";
import { putting } from "./jobs/putting.ts";
import { heartbeatOf, MAX_MESSAGE } from "./jobs/runs.ts";
import { database, transaction, write } from "./pool.ts";

const sql = {
  /** plan, revision, steps, down, by: nothing if one is open */
  askRehearsal: `
    insert into rehearsal (plan, revision, steps, down, asked_by) values ($1, $2, $3::jsonb, $4::text[], $5)
    on conflict (plan) where state in ('waiting', 'running') do nothing returning id::text`,
  /** plan, revision, steps, down */
  latestRehearsal: `
    select id::text, state, asked_by as "askedBy", asked_at as "askedAt", told, result from rehearsal
    where plan = $1 and revision = $2 and steps = $3::jsonb and down = $4::text[] order by id desc limit 1`,
  /** plan, rehearsal */
  cancelRehearsal: `
    update rehearsal set state = 'cancelled', ended_at = now(), told = 'cancelled'
    where plan = $1 and id = $2::bigint and state in ('waiting', 'running')`,
  /** rehearsal */
  claimRehearsal: `
    update rehearsal set state = 'running', seen_at = now() where id = $1::bigint and state = 'waiting'
    returning plan::text, revision, steps, down`,
  /** rehearsal, state, message, result */
  endRehearsal: `
    update rehearsal set state = $2, ended_at = now(), told = $3, result = $4::jsonb
    where id = $1::bigint and state = 'running'`,
  /** plan, how many are kept */
  forgetRehearsals: `
    delete from rehearsal where plan = $1 and state not in ('waiting', 'running') and id not in (
      select id from rehearsal where plan = $1 order by id desc limit $2)`,
} as const;

/** The question of a rehearsal: an outage of a plan's revision, and initially failed elements. */
export interface RehearsalQuestion {
  readonly plan: ReadablePlan;
  readonly revision: number;
  readonly steps: Outage["steps"];
  readonly down: readonly string[];
}

/** A rehearsal from being asked for to its end. */
export interface RehearsalRun {
  readonly id: string;
  readonly state: "waiting" | "running" | "done" | "failed" | "cancelled";
  readonly askedBy: string;
  readonly askedAt: string;
  /** The current activity, or why it failed. */
  readonly told: string;
  readonly result: Rehearsal | null;
}

/** The heartbeat of rehearsals. */
export const rehearsalHeartbeat = heartbeatOf(
  "rehearsal",
  "running",
  "the worker that rehearsed it has gone",
);
/** Rehearsals kept of a plan. */
const KEPT = 20;

const values = ({ plan, revision, steps, down }: RehearsalQuestion) => [
  plan,
  revision,
  JSON.stringify(steps),
  [...new Set(down)].sort(),
];

/** Asks for one; false where the plan is being rehearsed already. */
export async function askRehearsal(
  question: RehearsalQuestion & { readonly plan: EditablePlan },
  by: string,
): Promise<boolean> {
  const jobs = await putting();
  await rehearsalHeartbeat.failLost();
  return transaction(async (client) => {
    await client.query(sql.forgetRehearsals, [question.plan, KEPT]);
    const { rows } = await client.query<{ id: string }>(sql.askRehearsal, [...values(question), by]);
    await jobs.put(
      client,
      "rehearsal",
      rows.map(({ id }) => ({ rehearsal: id })),
    );
    return rows.length > 0;
  });
}

/** The latest of a question; null where it was never asked. */
export async function latestRehearsal(question: RehearsalQuestion): Promise<RehearsalRun | null> {
  await rehearsalHeartbeat.failLost();
  const { rows } = await database().query<RehearsalRun & Record<string, unknown>>(
    sql.latestRehearsal,
    values(question),
  );
  return rows[0] ?? null;
}

/** Ends one that waits or runs. */
export async function cancelRehearsal(plan: EditablePlan, id: string): Promise<void> {
  if (isPlanId(id)) await write(sql.cancelRehearsal, [plan, id]);
}

/** Takes one on; null where it no longer waits. */
export async function claimRehearsal(id: string): Promise<RehearsalQuestion | null> {
  const { rows } = await database().query<RehearsalQuestion & Record<string, unknown>>(sql.claimRehearsal, [
    id,
  ]);
  return rows[0] ?? null;
}

/** Ends it with its result, or with the reason for its failure. */
export async function endRehearsal(id: string, found: Rehearsal | string): Promise<void> {
  const failed = typeof found === "string";
  await database().query(sql.endRehearsal, [
    id,
    failed ? "failed" : "done",
    failed ? found.slice(0, MAX_MESSAGE) : "",
    failed ? null : JSON.stringify(found),
  ]);
}
