import type pg from "pg";
import { elementRefs, missingElement, stageOf } from "../../core/plan/index.ts";
import { isPlanId, type ReadablePlan } from "../access/grants.ts";
import { documentOf } from "../plans.ts";
import { database, transaction } from "../pool.ts";
import { cutSweep } from "./cut.ts";
import { eventStream } from "./event-stream.ts";
import { putting } from "./putting.ts";

const sql = {
  /** plan, revision, engine, down, depth: the sweep, made where it was not there; no longer stopped */
  askSweep: `
    insert into sweep (plan, revision, engine, down, depth) values ($1, $2, $3, $4, $5)
    on conflict (plan, revision, engine, down, depth) do update set stopped = false
    returning id::text, xmax = 0 as fresh`,
  /** sweep, first flows, ends, parts of the failures, of how many */
  insertPieces: `
    insert into sweep_piece (sweep, number, first_flow, end_flow, part, parts)
    select $1, t.number - 1, t.first, t.last, t.part, t.parts
    from unnest($2::int[], $3::int[], $4::int[], $5::int[]) with ordinality as t (first, last, part, parts, number)`,
  /** sweep: gives each piece that is open and in no queue a job */
  giveJobs: `
    update sweep_piece set job = gen_random_uuid(), error = null
    where sweep = $1 and done_at is null and (job is null or error is not null) returning number, job`,
  /** plan, and how many sweeps to keep without conditions, and as many with conditions */
  forgetSweeps: `
    delete from sweep where plan = $1 and id not in (
      select id from (
        select id, row_number() over (partition by down = '{}' order by made_at desc) as place
        from sweep where plan = $1) kept
      where place <= $2)`,
  /** sweep, session: waits for it from now on */
  joinSweep: "insert into sweep_asker (sweep, session) values ($1, $2) on conflict do nothing",
  /** sweep, session: waits no more; how many still do */
  leaveSweep: `
    with gone as (delete from sweep_asker where sweep = $1 and session = $2)
    select count(*)::int as left from sweep_asker where sweep = $1 and session <> $2`,
  /** plan, revision: stops open sweeps of earlier revisions */
  overtakeSweeps: `
    update sweep s set stopped = true where s.plan = $1 and s.revision < $2 and not s.stopped
      and exists (select from sweep_piece p where p.sweep = s.id and p.done_at is null) returning s.id::text`,
  /** sweep, plan */
  stopSweep: "update sweep set stopped = true where id = $1 and plan = $2",
  /** sweep, plan: removes the jobs of open pieces, and returns them */
  takeJobs: `
    with open as (
      select p.sweep, p.number, p.job from sweep_piece p join sweep s on s.id = p.sweep
      where p.sweep = $1 and s.plan = $2 and p.done_at is null and p.job is not null for update of p)
    update sweep_piece p set job = null, seen_at = null, worker = null, covered = 0, found = 0
    from open o where p.sweep = o.sweep and p.number = o.number returning o.job`,
  /** sweep, plan, seconds after which a worker counts as lost */
  sweepProgress: `
    select s.stopped, count(*)::int as pieces, count(p.done_at)::int as done,
           sum(p.covered)::float8 as covered, sum(p.found)::float8 as found, max(p.error) as error,
           (count(distinct p.worker) filter (where p.done_at is null and p.seen_at > now() - $3 * interval '1 second'))::int as workers
    from sweep s join sweep_piece p on p.sweep = s.id
    where s.id = $1 and s.plan = $2 group by s.id`,
  /** sweep, plan: its question */
  sweepQuestion: "select plan::text, revision, engine, down, depth from sweep where id = $1 and plan = $2",
  /** sweep, plan */
  sweepResults: `
    select p.result from sweep_piece p join sweep s on s.id = p.sweep
    where s.id = $1 and s.plan = $2 order by p.number`,
} as const;

/** The question of a sweep: a revision of a plan, under conditions, to a depth, by one engine version. */
export interface SweepQuestion {
  readonly plan: ReadablePlan;
  readonly revision: number;
  readonly engine: string;
  /** References of the initially failed elements. */
  readonly down: readonly string[];
  readonly depth: 1 | 2 | 3;
}

export interface SweepProgress {
  readonly stopped: boolean;
  readonly pieces: number;
  readonly done: number;
  /** Sets of failures looked at, and those that change something. */
  readonly covered: number;
  readonly found: number;
  /** Workers at it now. */
  readonly workers: number;
  readonly error: string | null;
}

/** A worker that was silent for so long, in seconds, has died: its pieces go to others. */
export const LOST_AFTER_S = 10;
/** Sweeps kept per plan; older ones are computed again on request. */
const KEPT = 12;

/** Requests a sweep: an existing one is reused, and a stopped one continues. Open sweeps of earlier revisions are
 * stopped. Returns its number, or why there is none. The session waits for it from now on. */
export async function askSweep(question: SweepQuestion, session: string): Promise<SweepOutcome> {
  const { plan, revision, engine, depth } = question;
  const document = await documentOf(plan, revision);
  if (!document || document.flows.length === 0)
    return { sweep: null, error: "the plan has no such revision, or no flow to sweep" };
  // Conditions that name nothing would be kept as if they were some, and push out those that do.
  const missing = question.down
    .map((ref) => missingElement(ref, document))
    .find((sentence) => sentence !== null);
  if (missing) return { sweep: null, error: missing };
  const down = [...new Set(question.down)].sort();
  const jobs = await putting();
  const overtaken: string[] = [];
  const sweep = await transaction(async (client) => {
    const { rows } = await client.query<{ id: string; fresh: boolean }>(sql.askSweep, [
      plan,
      revision,
      engine,
      down,
      depth,
    ]);
    const [{ id, fresh }] = rows;
    if (fresh) {
      const cuts = cutSweep(document.flows.length, elementRefs(document).length, depth);
      const columns = (["firstFlow", "endFlow", "part", "parts"] as const).map((name) =>
        cuts.map((cut) => cut[name]),
      );
      await client.query(sql.insertPieces, [id, ...columns]);
      await client.query(sql.forgetSweeps, [plan, KEPT]);
      // A plan in the middle of a change takes no other's place.
      const older = stageOf(revision)
        ? []
        : (await client.query<{ id: string }>(sql.overtakeSweeps, [plan, revision])).rows;
      for (const entry of older) overtaken.push(...(await takeJobs(client, entry.id, plan)));
    }
    await client.query(sql.joinSweep, [id, session]);
    const given = await client.query<{ number: number; job: string }>(sql.giveJobs, [id]);
    await jobs.put(
      client,
      "piece",
      given.rows.map(({ number, job }) => ({ id: job, sweep: id, number })),
    );
    return id;
  });
  await jobs.cancel("piece", overtaken);
  return { sweep, error: null };
}

/** A sweep's number, or why there is none. */
export type SweepOutcome = { sweep: string; error: null } | { sweep: null; error: string };

/** Takes the jobs of a sweep's open pieces away; which they were. */
async function takeJobs(client: pg.PoolClient, sweep: string, plan: string): Promise<string[]> {
  const { rows } = await client.query<{ job: string }>(sql.takeJobs, [sweep, plan]);
  return rows.map(({ job }) => job);
}

/** How far a sweep has come; null where the plan has no such sweep. */
export async function sweepProgress(plan: ReadablePlan, sweep: string): Promise<SweepProgress | null> {
  if (!isPlanId(sweep)) return null;
  const { rows } = await database().query<SweepProgress>(sql.sweepProgress, [sweep, plan, LOST_AFTER_S]);
  return rows[0] ?? null;
}

/** A sweep's progress as server-sent events, until it is done, stopped or failed; null if there is no such sweep. */
export function sweepEvents(
  plan: ReadablePlan,
  sweep: string,
  signal: AbortSignal,
): Promise<AsyncGenerator<string> | null> {
  const read = async () => {
    const now = await sweepProgress(plan, sweep);
    return (
      now && {
        data: JSON.stringify(now),
        isLast: now.stopped || now.error !== null || now.done === now.pieces,
      }
    );
  };
  return eventStream("progress", [`sweep ${sweep}`], read, signal);
}

/** What a sweep asks; null where the plan has no such sweep. */
export async function sweepQuestion(plan: ReadablePlan, sweep: string): Promise<SweepQuestion | null> {
  if (!isPlanId(sweep)) return null;
  const { rows } = await database().query<SweepQuestion & Record<string, unknown>>(sql.sweepQuestion, [
    sweep,
    plan,
  ]);
  return rows[0] ?? null;
}

/** The results of the pieces, in the order of the plan's flows; null if some are open. */
export async function sweepResult(plan: ReadablePlan, sweep: string): Promise<FlowResult[] | null> {
  if (!isPlanId(sweep)) return null;
  const { rows } = await database().query<{ result: FlowResult[] | null }>(sql.sweepResults, [sweep, plan]);
  if (rows.length === 0 || rows.some(({ result }) => result === null)) return null;
  return joined(rows.map(({ result }) => result as FlowResult[]));
}

/** A flow with what a piece found of it, as far as the server needs to know. */
export interface FlowResult {
  readonly flow: string;
  readonly swept: { readonly failures: readonly unknown[] };
}

/** What the pieces of a sweep found, in their order, as one: a flow's failures stand in several where these came in parts. */
export function joined<T extends FlowResult>(pieces: readonly (readonly T[])[]): T[] {
  const flows = new Map<string, T>();
  for (const found of pieces.flat()) {
    const known = flows.get(found.flow);
    const failures = [...(known?.swept.failures ?? []), ...found.swept.failures];
    flows.set(found.flow, { ...found, swept: { ...found.swept, failures } });
  }
  return [...flows.values()];
}

/** Stops a sweep for one waiting session, and entirely once no other waits; finished pieces are kept. */
export async function stopSweep(plan: ReadablePlan, sweep: string, session: string): Promise<void> {
  if (!isPlanId(sweep)) return;
  const jobs = await putting();
  const taken = await transaction(async (client) => {
    const { rows } = await client.query<{ left: number }>(sql.leaveSweep, [sweep, session]);
    if (rows[0].left > 0) return [];
    await client.query(sql.stopSweep, [sweep, plan]);
    return takeJobs(client, sweep, plan);
  });
  await jobs.cancel("piece", taken);
}
