import type pg from "pg";
import { database, withConnection } from "../pool.ts";
import { sql } from "./sql.ts";

/** How an earlier request with a key was answered. */
export interface AnswerRow {
  /** The request's digest. */
  readonly request: Buffer;
  readonly status: number;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: Buffer;
}

/** Hours for which answers are kept. */
const HOURS = 24;

/** Runs work under a named lock across all servers; returns null at once if it is taken, because waiting would block
 * one of the few threads. */
export function oneAtATime<T>(name: string, work: () => Promise<T>): Promise<T | null> {
  return withConnection(async (client, rollBack) => {
    try {
      await client.query("begin");
      const { rows } = await client.query<{ held: boolean }>(sql.holdName, [name]);
      return rows[0].held ? await work() : null;
    } finally {
      await rollBack();
    }
  });
}

export async function savedAnswer(asker: string, key: string): Promise<AnswerRow | null> {
  const { rows } = await database().query<AnswerRow & pg.QueryResultRow>(sql.keptAnswer, [asker, key, HOURS]);
  return rows[0] ?? null;
}

export async function keepAnswer(asker: string, key: string, answer: AnswerRow): Promise<void> {
  await database().query(sql.forgetAnswers, [HOURS]);
  const { request, status, headers, body } = answer;
  await database().query(sql.keepAnswer, [asker, key, request, status, JSON.stringify(headers), body]);
}
