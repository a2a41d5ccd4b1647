import { createHash } from "node:crypto";
import type pg from "pg";
import { database, transaction } from "../pool.ts";
import type { Administration } from "./grants.ts";
import { sql } from "./sql.ts";

/** An action or an attempted one. */
export interface AuditEntry {
  readonly who: string;
  readonly account: string | null;
  readonly address: string;
  /** The action: "POST /plans/:plan/edit", with the form's stated action. */
  readonly action: string;
  /** The address it was performed on. */
  readonly subject: string;
  /** How it was answered. */
  readonly status: number;
  readonly request: string;
  readonly detail: Readonly<Record<string, unknown>>;
}

export interface RecordRow extends AuditEntry {
  readonly number: number;
  readonly at: Date;
  readonly previous: Buffer;
  readonly digest: Buffer;
}

const BEGINNING = Buffer.alloc(32);

/** The digest of a row: of the one before and of all that it says, in this order. */
function digestOfRow(previous: Buffer, number: number, at: Date, deed: AuditEntry): Buffer {
  const { who, account, address, action, subject, status, request, detail } = deed;
  const told = [
    number,
    at.toISOString(),
    who,
    account,
    address,
    action,
    subject,
    status,
    request,
    sorted(detail),
  ];
  return createHash("sha256").update(previous).update(JSON.stringify(told)).digest();
}

/** With its keys in order, as the database may keep them in another. */
function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== "object" || value === null) return value;
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([key, child]) => [key, sorted(child)]),
  );
}

/** Adds an entry to the audit log, unless the transaction of the action has done so. */
export async function addToRecord(deed: AuditEntry): Promise<void> {
  await transaction((client) => addToRecordIn(client, deed));
}

/** The same within a transaction, as its last statement: rows are added one after the other, and wait for its end. */
export async function addToRecordIn(client: pg.PoolClient, deed: AuditEntry): Promise<void> {
  await client.query(sql.recordLock);
  const known = await client.query(sql.isRecorded, [deed.request]);
  if (known.rows.length > 0) return;
  const { rows } = await client.query<{ number: string; digest: Buffer }>(sql.lastOfRecord);
  const number = Number(rows[0]?.number ?? 0) + 1;
  const previous = rows[0]?.digest ?? BEGINNING;
  const at = new Date();
  await client.query(sql.addToRecord, [
    number,
    at,
    deed.who,
    deed.account,
    deed.address,
    deed.action,
    deed.subject,
    deed.status,
    deed.request,
    JSON.stringify(deed.detail),
    previous,
    digestOfRow(previous, number, at, deed),
  ]);
}

/** Rows that are read at once. */
const BATCH = 2000;

async function* rowsFrom(): AsyncGenerator<RecordRow> {
  for (let last = 0; ; ) {
    const { rows } = await database().query<RecordRow & pg.QueryResultRow>(sql.recordAfter, [last, BATCH]);
    for (const row of rows) yield { ...row, number: Number(row.number) };
    if (rows.length < BATCH) return;
    last = Number(rows.at(-1)?.number);
  }
}

/** Which rows of the audit log are wanted; null for all. */
export interface AuditFilter {
  /** A part of the user's name. */
  readonly who: string | null;
  /** A plan's id. */
  readonly plan: string | null;
  readonly actions: readonly string[] | null;
  readonly from: Date | null;
  readonly to: Date | null;
}

const EVERYTHING: AuditFilter = { who: null, plan: null, actions: null, from: null, to: null };

/** The newest rows before a number that pass a filter. */
export async function recordBefore(
  _by: Administration,
  number: number,
  count: number,
  { who, plan, actions, from, to } = EVERYTHING,
): Promise<RecordRow[]> {
  const { rows } = await database().query<RecordRow & pg.QueryResultRow>(sql.recordBefore, [
    number,
    count,
    who?.replaceAll(/[\\%_]/g, "\\$&") ?? null,
    plan,
    actions,
    from,
    to,
  ]);
  return rows.map((row) => ({ ...row, number: Number(row.number) }));
}

/** The record as JSON lines, oldest first. */
export async function* recordLines(_by: Administration): AsyncGenerator<string> {
  for await (const { previous, digest, ...row } of rowsFrom())
    yield `${JSON.stringify({ ...row, previous: previous.toString("hex"), digest: digest.toString("hex") })}\n`;
}

/** Whether the record is whole: each row says what its digest says and follows the one before. */
export async function verifyRecord(): Promise<
  { ok: true; rows: number; last: string } | { ok: false; number: number; why: string }
> {
  let previous: Buffer = BEGINNING;
  let count = 0;
  for await (const row of rowsFrom()) {
    const { number, at } = row;
    if (number !== count + 1) return { ok: false, number: count + 1, why: "a row is missing" };
    if (!row.previous.equals(previous))
      return { ok: false, number, why: "it does not follow the previous row" };
    if (!digestOfRow(previous, number, at, row).equals(row.digest))
      return { ok: false, number, why: "its content does not match its digest" };
    previous = row.digest;
    count = number;
  }
  return { ok: true, rows: count, last: previous.toString("hex") };
}
