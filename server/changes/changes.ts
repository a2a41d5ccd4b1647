import type pg from "pg";
import { isStepItem, MAX_STEPS } from "../../core/plan/index.ts";
import type { ApprovablePlan, EditablePlan, ReadablePlan } from "../access/grants.ts";
import { eventStream } from "../jobs/event-stream.ts";
import type { Author } from "../plans.ts";
import { database, transaction, write } from "../pool.ts";
import { makersOf } from "./makers.ts";
import { sql } from "./sql.ts";

export type ChangeState = "proposed" | "approved" | "done" | "turned back" | "withdrawn";

/** What people say of a change. */
export interface ChangeWords {
  readonly title: string;
  readonly reason: string;
  readonly reference: string;
  /** The start of the maintenance window; null if not set. */
  readonly windowFrom: Date | null;
  readonly windowTo: Date | null;
  readonly notes: string;
}

/** A change in the list of a plan's. */
export interface ListedChange extends Pick<ChangeWords, "title" | "reference" | "windowFrom" | "windowTo"> {
  readonly number: number;
  readonly base: number;
  readonly draft: number;
  readonly state: ChangeState;
  readonly author: string;
  readonly madeAt: Date;
}

export interface ChangeEvent {
  readonly id: string;
  readonly kind:
    | "proposed"
    | "rewritten"
    | "approved"
    | "ticked"
    | "unticked"
    | "turning back"
    | "going on"
    | "done"
    | "turned back"
    | "withdrawn";
  readonly detail: Readonly<Record<string, unknown>>;
  readonly author: string;
  readonly at: Date;
}

/** A ticked item of the runbook. */
export interface Tick {
  readonly item: string;
  readonly author: string;
  readonly at: Date;
}

/** A change with all that was done with it. `runbook` is kept as it was proven; its shape is the caller's. */
export interface Change<R = unknown> extends ListedChange, ChangeWords {
  readonly id: string;
  readonly session: string;
  readonly runbook: R;
  readonly events: readonly ChangeEvent[];
  readonly ticks: readonly Tick[];
}

/** Whether something was done; where not, why. */
export type Done = { ok: true } | { ok: false; error: string };

const refused = (error: string): { ok: false; error: string } => ({ ok: false, error });

export async function listChanges(plan: ReadablePlan): Promise<ListedChange[]> {
  return (await database().query<ListedChange & pg.QueryResultRow>(sql.list, [plan])).rows;
}

/** Numbers come from addresses that people type; anything that cannot be one names nothing. */
function isNumber(text: string | number): boolean {
  return /^[1-9]\d{0,4}$/.test(String(text));
}

export async function changeOf<R>(plan: ReadablePlan, number: string | number): Promise<Change<R> | null> {
  if (!isNumber(number)) return null;
  const { rows } = await database().query<Change<R> & pg.QueryResultRow>(sql.one, [plan, number]);
  const [row] = rows;
  if (!row) return null;
  const [events, ticks] = await Promise.all([
    database().query<ChangeEvent & pg.QueryResultRow>(sql.events, [row.id]),
    database().query<Tick & pg.QueryResultRow>(sql.ticks, [row.id]),
  ]);
  return { ...row, events: events.rows, ticks: ticks.rows };
}

/** The names of everybody who made a part of a change, in their order: its approver looks at the work of all of them. */
export async function authorsOf(
  plan: ReadablePlan,
  { base, draft }: { base: number; draft: number },
): Promise<string[]> {
  return transaction(async (client) => {
    const makers = await makersOf(client, plan, base, draft);
    const { rows } = await client.query<{ author: string }>(sql.authors, [plan, [...makers]]);
    return rows.map(({ author }) => author);
  });
}

/** The entity tag of a change's page; null if there is no such change. */
export async function markOf(plan: ReadablePlan, number: string): Promise<string | null> {
  if (!isNumber(number)) return null;
  return (await database().query<{ mark: string }>(sql.latest, [plan, number])).rows[0]?.mark ?? null;
}

/** Notifies followers of a change about any modification, as server-sent events; null if there is no such change.
 * Clients then reload the data. */
export function changeEvents(
  plan: ReadablePlan,
  number: string,
  signal: AbortSignal,
): Promise<AsyncGenerator<string> | null> {
  const read = async () => {
    const mark = await markOf(plan, number);
    return mark === null ? null : { data: JSON.stringify(mark), isLast: false };
  };
  return eventStream("changed", ["change", "reading"], read, signal);
}

/** What a change is of: its revisions and the order of its steps, as proven. */
export interface Proven {
  readonly base: number;
  readonly draft: number;
  readonly runbook: unknown;
  readonly steps: number;
}

/** Creates a change from a proven order. Its revisions and order are final: to change them, another change replaces it
 * (`replaces`). */
export async function proposeChange(
  plan: EditablePlan,
  { base, draft, runbook, steps }: Proven,
  words: ChangeWords,
  author: Author,
  replaces: string | null = null,
): Promise<{ ok: true; number: number } | { ok: false; error: string }> {
  if (steps > MAX_STEPS) return refused(`a change has at most ${MAX_STEPS} steps; make two of it`);
  return transaction(async (client) => {
    await client.query(sql.lockPlan, [plan]);
    if (replaces !== null) {
      const change = await lockChange(client, plan, replaces);
      if (!change) return refused("there is no such change to replace");
      const why = await notToEnd(client, change);
      if (why) return refused(why);
      await end(client, plan, change, "withdrawn", author);
    }
    const { rows } = await client.query<{ id: string; number: number }>(sql.insert, [
      plan,
      base,
      draft,
      ...valuesOf(words),
      JSON.stringify(runbook),
      author.name,
      author.session,
    ]);
    const [{ id, number }] = rows;
    await logEvent(client, id, "proposed", { base, draft, replaces, ...words }, author);
    return { ok: true, number };
  });
}

/** Says otherwise what a change is about: whatever was approved has to be approved anew. */
export async function rewriteChange(
  plan: EditablePlan,
  number: string,
  words: ChangeWords,
  author: Author,
): Promise<Done> {
  return withChange(plan, number, async (client, change) => {
    const why = await notToEnd(client, change);
    if (why) return refused(why);
    if (change.state === "approved") await takeApprovalBack(client, plan, change);
    await client.query(sql.rewrite, [change.id, ...valuesOf(words)]);
    await logEvent(client, change.id, "rewritten", words, author);
    return { ok: true };
  });
}

/** Approves what a change says now. Where the plan asks for four eyes, not by anybody who made a part of it. */
export async function approveChange(plan: ApprovablePlan, number: string, author: Author): Promise<Done> {
  return withChange(plan, number, async (client, change) => {
    if (change.state !== "proposed") return refused(`the change is ${change.state} already`);
    if (change.approved !== change.base)
      return refused(
        `the change starts from revision ${change.base}, and meanwhile revision ${change.approved} was approved: make the change anew from there`,
      );
    const why = await ownWorkRefusal(client, plan, change, author, [change.session]);
    if (why) return refused(why);
    await client.query(sql.setState, [change.id, "approved"]);
    await client.query(sql.approve, [plan, change.draft]);
    await logEvent(client, change.id, "approved", { draft: change.draft }, author);
    return { ok: true };
  });
}

/** Lets a revision count as approved without a change. Four eyes are asked for here too. */
export async function approveRevision(plan: ApprovablePlan, revision: number, author: Author): Promise<Done> {
  return transaction(async (client) => {
    const { rows } = await client.query<{ revision: number; approved: number }>(sql.lockPlan, [plan]);
    const [head] = rows;
    if (!head) return refused("there is no such plan; it may have been deleted");
    if (revision > head.revision) return refused(`the plan has no revision ${revision}`);
    const why = await ownWorkRefusal(client, plan, { base: head.approved, draft: revision }, author, []);
    if (why) return refused(why);
    await client.query(sql.approve, [plan, revision]);
    return { ok: true };
  });
}

/** Why a person may not approve: the plan requires a second approver, and this is their own work; null if they may. */
async function ownWorkRefusal(
  client: pg.PoolClient,
  plan: string,
  { base, draft }: { base: number; draft: number },
  { session }: Author,
  others: readonly string[],
): Promise<string | null> {
  const { rows } = await client.query<{ fourEyes: boolean }>(sql.fourEyes, [plan]);
  if (!rows[0]?.fourEyes) return null;
  const makers = new Set([...others, ...(await makersOf(client, plan, base, draft))]);
  return makers.has(session)
    ? "the approver must not be one of its authors, nor have proposed it (this plan requires a second approver)"
    : null;
}

/** Withdraws a change: it is not carried out, and its approval no longer counts. */
export async function withdrawChange(plan: EditablePlan, number: string, author: Author): Promise<Done> {
  return withChange(plan, number, async (client, change) => {
    const why = await notToEnd(client, change);
    if (why) return refused(why);
    await end(client, plan, change, "withdrawn", author);
    return { ok: true };
  });
}

/** Why a change cannot be taken off or said otherwise; null where it can. */
async function notToEnd(client: pg.PoolClient, { id, state }: Locked): Promise<string | null> {
  if (state !== "proposed" && state !== "approved")
    return `the change is ${state} and can no longer be edited`;
  const begun = (await ticksOf(client, id)).some(isStepItem);
  return begun ? "some of its steps are done: go back first, or go on" : null;
}

/** Ticks an item of the runbook, or takes the tick back; only of a change that is approved. */
export async function tickChange(
  plan: EditablePlan,
  number: string,
  item: string,
  done: boolean,
  author: Author,
): Promise<Done> {
  return withChange(plan, number, async (client, change) => {
    if (change.state !== "approved")
      return refused(
        change.state === "proposed" ? "the change is not approved yet" : `the change is ${change.state}`,
      );
    const ticked = (await ticksOf(client, change.id)).includes(item);
    if (ticked === done) return { ok: true };
    await logEvent(client, change.id, done ? "ticked" : "unticked", { item }, author);
    return { ok: true };
  });
}

/** Says that a change is being rolled back, or carried out further after all. */
export async function setRollback(
  plan: EditablePlan,
  number: string,
  back: boolean,
  author: Author,
): Promise<Done> {
  return withChange(plan, number, async (client, change) => {
    if (change.state !== "approved") return refused(`the change is ${change.state}`);
    await logEvent(client, change.id, back ? "turning back" : "going on", {}, author);
    return { ok: true };
  });
}

/** Ends a change that is carried out: all of its `steps` items are ticked, or none is any more. */
export async function closeChange(
  plan: EditablePlan,
  number: string,
  as: "done" | "turned back",
  steps: readonly string[],
  author: Author,
): Promise<Done> {
  return withChange(plan, number, async (client, change) => {
    if (change.state !== "approved") return refused(`the change is ${change.state}`);
    const ticks = new Set(await ticksOf(client, change.id));
    const open = steps.filter((item) => !ticks.has(item)).length;
    if (as === "done" && open > 0) return refused(`${open} of its steps are not done yet`);
    if (as === "turned back" && open < steps.length)
      return refused(`${steps.length - open} of its steps are still done; take them back first`);
    await end(client, plan, change, as, author);
    return { ok: true };
  });
}

/** A change that was not carried out leaves the network unchanged: its approval no longer counts, unless more was
 * approved since. */
async function end(
  client: pg.PoolClient,
  plan: string,
  change: Locked,
  as: "done" | "turned back" | "withdrawn",
  author: Author,
) {
  if (as !== "done" && change.state === "approved") await takeApprovalBack(client, plan, change);
  await client.query(sql.setState, [change.id, as]);
  await logEvent(client, change.id, as, {}, author);
}

async function takeApprovalBack(client: pg.PoolClient, plan: string, { base, draft, approved }: Locked) {
  if (approved === draft) await client.query(sql.approve, [plan, base]);
}

export async function fourEyesOf(plan: ReadablePlan): Promise<boolean> {
  return (await database().query<{ fourEyes: boolean }>(sql.fourEyes, [plan])).rows[0]?.fourEyes ?? false;
}

export async function setFourEyes(plan: ApprovablePlan, on: boolean): Promise<void> {
  await write(sql.setFourEyes, [plan, on]);
}

/** Stores a plan in the middle of a change under the revision number that represents it. */
export async function keepStage(plan: ReadablePlan, revision: number, document: unknown): Promise<void> {
  await database().query(sql.keepStage, [plan, revision, JSON.stringify(document)]);
}

interface Locked {
  readonly id: string;
  readonly base: number;
  readonly draft: number;
  readonly state: ChangeState;
  readonly session: string;
  /** The revision of its plan that counts as approved; the plan is held meanwhile. */
  readonly approved: number;
}

async function withChange(
  plan: EditablePlan,
  number: string,
  work: (client: pg.PoolClient, change: Locked) => Promise<Done>,
): Promise<Done> {
  if (!isNumber(number)) return refused("there is no such change");
  return transaction(async (client) => {
    // Plans are held before their changes, always in this order.
    await client.query(sql.lockPlan, [plan]);
    const change = await lockChange(client, plan, number);
    return change ? work(client, change) : refused("there is no such change");
  });
}

async function lockChange(client: pg.PoolClient, plan: string, number: string): Promise<Locked | null> {
  if (!isNumber(number)) return null;
  const { rows } = await client.query<Locked & pg.QueryResultRow>(sql.lock, [plan, number]);
  return rows[0] ?? null;
}

async function ticksOf(client: pg.PoolClient, change: string): Promise<string[]> {
  const { rows } = await client.query<{ item: string }>(sql.ticks, [change]);
  return rows.map(({ item }) => item);
}

function valuesOf({ title, reason, reference, windowFrom, windowTo, notes }: ChangeWords): unknown[] {
  return [title, reason, reference, windowFrom, windowTo, notes];
}

async function logEvent(
  client: pg.PoolClient,
  change: string,
  kind: ChangeEvent["kind"],
  detail: object,
  { name, session }: Author,
) {
  await client.query(sql.event, [change, kind, JSON.stringify(detail), name, session]);
}
