import type pg from "pg";
import {
  applyEdit,
  type Edit,
  formatPlanError,
  invertEdit,
  type Plan,
  type PlanError,
} from "../core/plan/index.ts";
import {
  type AdministeredPlan,
  type Administration,
  type EditablePlan,
  isPlanId,
  ownPlan,
  type ReadablePlan,
} from "./access/grants.ts";
import { engineVersion } from "./jobs/engine.ts";
import { database, transaction, write } from "./pool.ts";
import { indexRoutes } from "./route-index.ts";

const sql = {
  /** plan id */
  lockPlan: "select revision from plan where id = $1 and deleted_at is null for update",
  /** engine: every plan, with its sheet if computed */
  listPlans: `
    select p.id::text, p.name, p.revision, p.changed_at as "changedAt", r.author,
           left(r.document->>'description', 1000) as description, w.value as sheet
    from plan p join revision r on r.plan = p.id and r.number = p.revision
      left join worked_out w on w.plan = p.id and w.revision = p.revision and w.engine = $1 and w.what = 'sheet'
    where p.deleted_at is null order by p.id`,
  /** plan id */
  headOf: "select id::text, name, revision, approved from plan where id = $1 and deleted_at is null",
  /** plan id, revision number */
  revisionOf: "select document from revision where plan = $1 and number = $2",
  /** name */
  insertPlan: "insert into plan (name, revision) values ($1, 1) returning id::text",
  /** plan, number, document, kind, edit, target, session, author, why, when or null for now */
  insertRevision: `
    insert into revision (plan, number, document, kind, edit, target, session, author, why, made_at)
    values ($1, $2, $3, $4, $5, $6, $7, $8, $9, coalesce($10, now()))`,
  /** plan id, revision number, name */
  moveHead: "update plan set revision = $2, name = $3, changed_at = now() where id = $1",
  /** plan id, by whom: hidden from then on */
  hidePlan: "update plan set deleted_at = now(), deleted_by = $2 where id = $1 and deleted_at is null",
  /** plan id */
  restorePlan:
    "update plan set deleted_at = null, deleted_by = null where id = $1 and deleted_at is not null",
  /** days for which plans can be brought back */
  forgetPlans: "delete from plan where deleted_at < now() - $1 * interval '1 day'",
  deletedPlans: `
    select id::text, name, deleted_at as "deletedAt", deleted_by as "deletedBy" from plan
    where deleted_at is not null order by deleted_at desc`,
  /** plan id, how many, before number */
  history: `
    select number, kind, target, author, why, made_at as "madeAt", edit
    from revision where plan = $1 and number < $3 and kind <> 'stage' order by number desc limit $2`,
  /** plan id, session */
  undoTarget: `
    select number, edit from revision r
    where plan = $1 and session = $2 and kind in ('edit', 'redo')
      and not exists (select from revision u where u.plan = r.plan and u.kind = 'undo' and u.target = r.number)
    order by number desc limit 20`,
  /** plan id, session */
  redoTarget: `
    select number, edit from revision r
    where plan = $1 and session = $2 and kind = 'undo'
      and not exists (select from revision d where d.plan = r.plan and d.kind = 'redo' and d.target = r.number)
      and not exists (select from revision e where e.plan = r.plan and e.session = $2 and e.kind = 'edit' and e.number > r.number)
    order by number desc limit 20`,
  /** plan id, revision number: who changed the plan after it */
  changesSince:
    "select number, author, why from revision where plan = $1 and number > $2 and kind <> 'stage' order by number desc limit 3",
} as const;

/** Who does something: a browser session and the name that its user goes by. */
export interface Author {
  readonly session: string;
  readonly name: string;
}

export interface PlanHead {
  readonly id: ReadablePlan;
  readonly name: string;
  readonly revision: number;
}

/** Where a plan stands: its latest revision, and the one that counts as approved. */
export interface Head extends PlanHead {
  readonly approved: number;
}

/** A plan in the list: `sheet` is computed from its latest revision, null until then. */
export interface ListedPlan extends PlanHead {
  readonly changedAt: Date;
  readonly author: string;
  readonly description: string | null;
  readonly sheet: unknown;
}

export async function listPlans(mayRead: (plan: string) => boolean): Promise<ListedPlan[]> {
  const { rows } = await database().query<ListedPlan>(sql.listPlans, [engineVersion]);
  return rows.filter(({ id }) => mayRead(id));
}

export async function headOf(id: ReadablePlan): Promise<Head | null> {
  return (await database().query<Head>(sql.headOf, [id])).rows[0] ?? null;
}

/** The document of a revision; null if it does not exist. */
export async function documentOf(id: ReadablePlan, revision: number): Promise<Plan | null> {
  return (
    (await database().query<{ document: Plan }>(sql.revisionOf, [id, revision])).rows[0]?.document ?? null
  );
}

/** Stores a plan as a first revision, and gives its id. */
export async function createPlan(plan: Plan, author: Author, why: string): Promise<AdministeredPlan> {
  return transaction(async (client) => {
    const id = await insertPlan(client, plan.name);
    await insertRevision(client, id, {
      number: 1,
      plan,
      kind: "load",
      edit: null,
      target: null,
      author,
      why,
    });
    await indexRoutes(client, id, plan);
    return ownPlan(id);
  });
}

/** Days for which a plan that was deleted can be brought back. */
const DELETED_DAYS = 30;

export interface DeletedPlan {
  readonly id: string;
  readonly name: string;
  readonly deletedAt: Date;
  readonly deletedBy: string;
}

/** Hides a plan; for some time it can be brought back. */
export async function deletePlan(id: EditablePlan, by: string): Promise<void> {
  await database().query(sql.forgetPlans, [DELETED_DAYS]);
  await write(sql.hidePlan, [id, by]);
}

export async function listDeletedPlans(_by: Administration): Promise<DeletedPlan[]> {
  return (await database().query<DeletedPlan & pg.QueryResultRow>(sql.deletedPlans)).rows;
}

/** Restores a deleted plan; false if there is none. */
export async function restorePlan(_by: Administration, id: string): Promise<boolean> {
  if (!isPlanId(id)) return false;
  return ((await write(sql.restorePlan, [id])).rowCount ?? 0) > 0;
}

interface NewRevision {
  number: number;
  plan: Plan;
  kind: "load" | "edit" | "undo" | "redo";
  edit: Edit | null;
  target: number | null;
  author: Author;
  why: string;
  /** Defaults to now. */
  madeAt?: string;
}

/** A new plan with no revision yet; its number. */
export async function insertPlan(client: pg.PoolClient, name: string): Promise<string> {
  const { rows } = await client.query<{ id: string }>(sql.insertPlan, [name]);
  return rows[0].id;
}

/** Adds a revision; the caller updates the plan's head and routes. */
export async function insertRevision(client: pg.PoolClient, id: string, made: NewRevision): Promise<void> {
  const { number, plan, kind, edit, target, author, why, madeAt = null } = made;
  const document = JSON.stringify(plan);
  const editText = edit ? JSON.stringify(edit) : null;
  await client.query(sql.insertRevision, [
    id,
    number,
    document,
    kind,
    editText,
    target,
    author.session,
    author.name,
    why,
    madeAt,
  ]);
}

export type SaveOutcome =
  | {
      ok: true;
      revision: number;
      why: string;
      /** The edit as it was applied, and the revision that it was applied to. */
      applied: { edit: Edit; on: number } | null;
      passedOver?: string[];
    }
  | { ok: false; errors: PlanError[]; revision: number | null };

function refused(message: string, revision: number | null): SaveOutcome {
  return { ok: false, errors: [{ path: "", message }], revision };
}

/**
 * Applies an edit that was made on a revision. Where the plan has moved on since, the edit is applied on
 * top if it still fits, and refused with the reason if it does not. Nothing is lost either way.
 */
export async function saveEdit(
  id: EditablePlan,
  base: number,
  edit: Edit,
  author: Author,
): Promise<SaveOutcome> {
  return change(id, async (client, current, revision) => {
    if (base > revision)
      return refused(`revision ${base} does not exist; the plan is at ${revision}`, revision);
    const outcome = applyEdit(current, edit);
    if (!outcome.ok) {
      if (base === revision) return { ok: false, errors: outcome.errors, revision };
      const { rows } = await client.query<{ number: number; author: string; why: string }>(sql.changesSince, [
        id,
        base,
      ]);
      const since = rows.map((row) => `${row.author} (${row.why})`).join(", ");
      const errors = outcome.errors.map((error) => ({
        ...error,
        message: `${error.message}; changed since by ${since}`,
      }));
      return { ok: false, errors, revision };
    }
    return commit(client, id, revision, outcome.plan, {
      kind: "edit",
      edit: outcome.applied,
      target: null,
      author,
      why: edit.label,
    });
  });
}

/** Undoes the session's latest edit that still applies; reports the skipped ones. */
export function undo(id: EditablePlan, author: Author): Promise<SaveOutcome> {
  return takeBack(id, author, sql.undoTarget, "undo");
}

/** Takes back the session's latest undo, unless it has edited since. */
export function redo(id: EditablePlan, author: Author): Promise<SaveOutcome> {
  return takeBack(id, author, sql.redoTarget, "redo");
}

async function takeBack(
  id: EditablePlan,
  author: Author,
  statement: string,
  kind: "undo" | "redo",
): Promise<SaveOutcome> {
  return change(id, async (client, current, revision) => {
    const { rows } = await client.query<{ number: number; edit: Edit }>(statement, [id, author.session]);
    if (rows.length === 0) return refused(`there is nothing to ${kind} in this session`, revision);
    // Edits that no longer apply, because others changed the same items, do not block earlier ones.
    const passedOver: string[] = [];
    for (const { number, edit } of rows) {
      const outcome = applyEdit(current, invertEdit(edit));
      if (!outcome.ok) {
        passedOver.push(
          `"${edit.label}" cannot be ${kind === "undo" ? "undone" : "redone"} any more: ${outcome.errors.map(formatPlanError).join("; ")}`,
        );
        continue;
      }
      const made = { kind, edit: outcome.applied, target: number, author, why: edit.label };
      const saved = await commit(client, id, revision, outcome.plan, made);
      return saved.ok && passedOver.length ? { ...saved, passedOver } : saved;
    }
    return refused(passedOver[0], revision);
  });
}

async function change(
  id: EditablePlan,
  work: (client: pg.PoolClient, current: Plan, revision: number) => Promise<SaveOutcome>,
): Promise<SaveOutcome> {
  return transaction(async (client) => {
    const { rows } = await client.query<{ revision: number }>(sql.lockPlan, [id]);
    if (rows.length === 0) return refused("there is no such plan; it may have been deleted", null);
    const [{ revision }] = rows;
    const found = await client.query<{ document: Plan }>(sql.revisionOf, [id, revision]);
    return work(client, found.rows[0].document, revision);
  });
}

async function commit(
  client: pg.PoolClient,
  id: string,
  revision: number,
  plan: Plan,
  made: Omit<NewRevision, "number" | "plan">,
): Promise<SaveOutcome> {
  const number = revision + 1;
  await insertRevision(client, id, { number, plan, ...made });
  await client.query(sql.moveHead, [id, number, plan.name]);
  await indexRoutes(client, id, plan);
  const applied = made.edit && { edit: made.edit, on: revision };
  return { ok: true, revision: number, why: made.why, applied };
}

/** Whether the session has something to undo and redo, with descriptions. */
export async function undoState(
  id: ReadablePlan,
  session: string,
): Promise<{ undo: string | null; redo: string | null }> {
  const label = async (statement: string) => {
    const { rows } = await database().query<{ edit: Edit }>(statement, [id, session]);
    return rows[0]?.edit.label ?? null;
  };
  const [undoLabel, redoLabel] = await Promise.all([label(sql.undoTarget), label(sql.redoTarget)]);
  return { undo: undoLabel, redo: redoLabel };
}

export interface HistoryEntry {
  readonly number: number;
  readonly kind: NewRevision["kind"];
  readonly target: number | null;
  readonly author: string;
  readonly why: string;
  readonly madeAt: Date;
  readonly edit: Edit | null;
}

/** The latest revisions before a number, newest first. */
export async function historyOf(
  id: ReadablePlan,
  count: number,
  before = 2_147_483_647,
): Promise<HistoryEntry[]> {
  return (await database().query<HistoryEntry>(sql.history, [id, count, before])).rows;
}
