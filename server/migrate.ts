import { readdirSync, readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { grantDataRights } from "./data-rights.ts";
import { SCHEMA, transaction } from "./pool.ts";

const folder = fileURLToPath(new URL("../db/migrations/", import.meta.url));

/** Brings the database up to date; each migration runs once, all of them in one transaction. */
export async function migrate(): Promise<string[]> {
  const files = readdirSync(folder)
    .filter((name) => name.endsWith(".sql"))
    .sort();
  return transaction(async (client) => {
    // Two starts at once wait for each other here.
    await client.query("select pg_advisory_xact_lock(hashtext('iron-fork migrations'))");
    await client.query(`create schema if not exists ${SCHEMA}`);
    await client.query(
      "create table if not exists migration (name text primary key, run_at timestamptz not null default now())",
    );
    const { rows } = await client.query<{ name: string }>("select name from migration");
    const done = new Set(rows.map((row) => row.name));
    const open = files.filter((name) => !done.has(name));
    for (const name of open) {
      await client.query(readFileSync(`${folder}${name}`, "utf8"));
      await client.query("insert into migration (name) values ($1)", [name]);
    }
    await grantDataRights(client, SCHEMA);
    return open;
  });
}
