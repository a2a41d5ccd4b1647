import pg from "pg";

/** All tables live in a schema of their own, so that a database shared with others is left alone. */
export const SCHEMA = "iron_fork";

let pool: pg.Pool | null = null;

/** Where the database is; throws where nobody said. */
export function needDatabaseUrl(): string {
  const url = process.env.DATABASE_URL;
  if (!url)
    throw new Error("DATABASE_URL is not set. Start with bin/start, which sets up a database of its own.");
  return url;
}

/** The connection pool, made at first use from DATABASE_URL. */
export function database(): pg.Pool {
  if (!pool) {
    pool = new pg.Pool({ connectionString: needDatabaseUrl(), options: `-c search_path=${SCHEMA}`, max: 10 });
    // An idle connection that breaks is replaced at the next use; without a listener it would end the process.
    pool.on("error", () => {});
  }
  return pool;
}

/** Runs work in one transaction; rolled back where it throws. */
export async function transaction<T>(work: (client: pg.PoolClient) => Promise<T>): Promise<T> {
  const client = await database().connect();
  try {
    await client.query("begin");
    const result = await work(client);
    await client.query("commit");
    return result;
  } catch (error) {
    await client.query("rollback");
    throw error;
  } finally {
    client.release();
  }
}
