import pg from "pg";
import { log } from "./log.ts";

/** All tables live in a schema of their own, so that a database shared with others is left alone. */
export const SCHEMA = "iron_fork";

/**
 * How long a request waits for a connection, and a statement for its end, in milliseconds. Where a thread is at work
 * for seconds, it hears of its connection only afterwards.
 */
const CONNECT_MS = 20_000;
const STATEMENT_MS = 60_000;

/** Where the database is; throws where nobody said. */
export function needDatabaseUrl(): string {
  const url = process.env.DATABASE_URL;
  if (!url)
    throw new Error("DATABASE_URL is not set. Start with bin/start, which sets up a database of its own.");
  return url;
}

/** Said wherever the database cannot be reached. */
export const DATABASE_AWAY =
  "The database does not answer at the moment. Nothing was changed, and nothing is lost: try again in a moment.";

/** What is thrown in place of an error that says that the database cannot be reached. */
type WhenAway = (cause: unknown) => unknown;
let whenAway: WhenAway = (cause) => cause;

/** Has what tells that the database is away made by the caller: pages answer with a sentence. */
export function onDatabaseAway(make: WhenAway) {
  whenAway = make;
}

/** Whether an error says that the database is not there, or no longer, rather than that a statement is wrong. */
export function isAway(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  const { code = "" } = error as Error & { code?: string };
  // Class 08: connection; 57P01 to 57P03: shutting down, crashed, starting up; 53300: too many connections.
  if (/^(08|57P0[123]|53300)/.test(code)) return true;
  if (/^(ECONNREFUSED|ECONNRESET|EPIPE|ENOTFOUND|ETIMEDOUT)$/.test(code)) return true;
  return /Connection terminated|timeout exceeded when trying to connect/.test(error.message);
}

function told(error: unknown): never {
  throw isAway(error) ? whenAway(error) : error;
}

class Pool extends pg.Pool {
  /** Connections and statements of the pool: an error that says that the database is away is told as such. */
  readonly asked = {
    connect: () => this.connect().catch(told),
    query: <R extends pg.QueryResultRow>(text: string, values?: unknown[]): Promise<pg.QueryResult<R>> =>
      this.query<R>(text, values).catch(told),
    end: () => this.end(),
  };
}

let pool: Pool | null = null;

/** The connection pool, made at first use from DATABASE_URL. */
export function database(): Pool["asked"] {
  if (!pool) {
    pool = new Pool({
      connectionString: needDatabaseUrl(),
      options: `-c search_path=${SCHEMA} -c statement_timeout=${STATEMENT_MS}`,
      connectionTimeoutMillis: CONNECT_MS,
      max: Number(process.env.DATABASE_CONNECTIONS ?? 6),
    });
    // A connection that breaks is replaced at the next use; without a listener it would end the process.
    pool.on("error", (error) => log.warn({ error: String(error) }, "an idle database connection broke"));
  }
  return pool.asked;
}

/** Runs work in one transaction; rolled back where it throws. */
export async function transaction<T>(work: (client: pg.PoolClient) => Promise<T>): Promise<T> {
  const client = await database().connect();
  let broken: Error | undefined;
  const onError = (error: Error) => {
    broken = error;
  };
  // Between two statements a connection breaks without anybody waiting for it.
  client.on("error", onError);
  try {
    await client.query("begin");
    const result = await work(client);
    await client.query("commit");
    return result;
  } catch (error) {
    await client.query("rollback").catch((failed: Error) => {
      broken ??= failed;
    });
    return told(error);
  } finally {
    client.off("error", onError);
    client.release(broken);
  }
}
