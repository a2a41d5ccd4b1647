import { createHash } from "node:crypto";
import { createReadStream } from "node:fs";
import { z } from "zod";
import { database } from "../pool.ts";

const sql = {
  /** the application's own tables */
  tables: "select tablename as name from pg_tables where schemaname = 'iron_fork' order by tablename",
  latestMigration: "select name from migration order by name desc limit 1",
} as const;

/** What a backup says of itself. */
export const manifestSchema = z.strictObject({
  what: z.literal("iron-fork backup"),
  version: z.literal(1),
  madeAt: z.string(),
  /** The latest migration that the database had. */
  migration: z.string(),
  /** Rows of each table. */
  rows: z.record(z.string(), z.number().int()),
  /** SHA-256 of database.dump. */
  digest: z.string(),
});
export type Manifest = z.output<typeof manifestSchema>;

export async function digestOf(path: string): Promise<string> {
  const digest = createHash("sha256");
  for await (const part of createReadStream(path)) digest.update(part);
  return digest.digest("hex");
}

/** Rows of each table of the application's own schema. */
export async function countRows(): Promise<Record<string, number>> {
  const { rows } = await database().query<{ name: string }>(sql.tables);
  const counts: Record<string, number> = {};
  for (const { name } of rows) {
    const found = await database().query<{ count: number }>(`select count(*)::int as count from "${name}"`);
    counts[name] = found.rows[0].count;
  }
  return counts;
}

/** The latest migration that has run; "" without any. */
export async function latestMigration(): Promise<string> {
  const { rows } = await database().query<{ name: string }>(sql.latestMigration);
  return rows[0]?.name ?? "";
}
