import { randomBytes } from "node:crypto";
import pg from "pg";
import { database } from "../../server/pool.ts";

/**
 * Has this test file work in a database of its own, beside the one that it was given: for what counts for a whole
 * workspace. Call it before anything asks the database; what it gives takes the database away again.
 */
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
