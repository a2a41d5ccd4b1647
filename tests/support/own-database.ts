import { randomBytes } from "node:crypto";
import pg from "pg";
import { database } from "../../server/pool.ts";

/** Gives this test file its own database beside the configured one, for workspace-wide effects. Call it before the
 * first query; it returns a function that drops the database. */
export async function ownDatabase(): Promise<() => Promise<void>> {
  const given = process.env.DATABASE_URL as string;
  const name = `own_${randomBytes(6).toString("hex")}`;
  const ask = async (statement: string) => {
    const client = new pg.Client(given);
    await client.connect();
    await client.query(statement);
    await client.end();
  };
  await ask(`create database ${name}`);
  const own = new URL(given);
  own.pathname = `/${name}`;
  process.env.DATABASE_URL = own.href;
  return async () => {
    await database().end();
    process.env.DATABASE_URL = given;
    await ask(`drop database ${name} with (force)`);
  };
}
