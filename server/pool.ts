import { AsyncLocalStorage } from "node:async_hooks";
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
/** How long a statement waits for what another transaction holds, in milliseconds. */
const LOCK_MS = Number(process.env.DATABASE_LOCK_MS ?? STATEMENT_MS);

/** The database's address; throws if it is not configured. */
export function needDatabaseUrl(): string {
  const url = process.env.DATABASE_URL;
  if (!url) throw new Error("DATABASE_URL is not set. Start with bin/start, which sets up a database.");
  return url;
}

/** Said wherever the database cannot be reached. */
const DATABASE_AWAY = "The database is not responding. Nothing was changed. Try again in a moment.";

/** A condition in which the database refuses a request, with its status and message. */
export interface DatabaseTrouble {
  readonly status: number;
  readonly sentence: string;
  /** Seconds after which it makes sense to try again. */
  readonly retryAfter?: number;
}

/** Creates the error to throw instead. */
type OnTrouble = (trouble: DatabaseTrouble, cause: unknown) => unknown;
let onTrouble: OnTrouble = (_trouble, cause) => cause;

/** Lets the caller create these errors: pages answer with the message. */
export function onDatabaseTrouble(make: OnTrouble) {
  onTrouble = make;
}

/** Said wherever nothing can be written. */
export const DISK_FULL: DatabaseTrouble = {
  status: 507,
  sentence:
    "Not saved: the server's disk is full. Your input is still here. Ask whoever runs the server to free some space, then try again.",
};

const troubles: Readonly<Record<string, DatabaseTrouble>> = {
  // Lock not available: what the request needs is held by another.
  "55P03": {
    status: 409,
    sentence: "Not saved: another change is being saved at this moment. Your input is still here. Try again.",
    retryAfter: 2,
  },
  "53100": DISK_FULL,
  // Text that no column holds: a zero byte, or no UTF-8.
  "22021": {
    status: 400,
    sentence: "Not saved: the text holds a character that cannot be kept, such as a zero byte.",
  },
  "22P05": {
    status: 400,
    sentence: "Not saved: the text holds a character that cannot be kept, such as a zero byte.",
  },
  // A reference to a deleted item.
  "23503": {
    status: 404,
    sentence: "Not saved: something that it refers to has been deleted meanwhile. Load the page again.",
  },
  // A value out of range, or not of its type.
  "22003": { status: 400, sentence: "Not saved: a number is out of range." },
  "22P02": { status: 400, sentence: "Not saved: a value is not of its type." },
};

/** The trouble that an error says; null for none of them. */
export function troubleOf(error: unknown): DatabaseTrouble | null {
  if (isAway(error)) return { status: 503, sentence: DATABASE_AWAY, retryAfter: 5 };
  const { code = "" } = (error ?? {}) as { code?: string };
  return troubles[code] ?? (code === "ENOSPC" ? DISK_FULL : null);
}

/** Whether an error says that the database is not there, or no longer, rather than that a statement is wrong. */
function isAway(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  const { code = "" } = error as Error & { code?: string };
  // Class 08: connection; 57P01 to 57P03: shutting down, crashed, starting up; 53300: too many connections.
  if (/^(08|57P0[123]|53300)/.test(code)) return true;
  if (/^(ECONNREFUSED|ECONNRESET|EPIPE|ENOTFOUND|ETIMEDOUT)$/.test(code)) return true;
  return /Connection terminated|timeout exceeded when trying to connect/.test(error.message);
}

function told(error: unknown): never {
  const trouble = troubleOf(error);
  throw trouble ? onTrouble(trouble, error) : error;
}

class Pool extends pg.Pool {
  /** Connections and statements of the pool: an unreachable database is reported as such. */
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
      options: `-c search_path=${SCHEMA} -c statement_timeout=${STATEMENT_MS} -c lock_timeout=${LOCK_MS}`,
      connectionTimeoutMillis: CONNECT_MS,
      max: Number(process.env.DATABASE_CONNECTIONS ?? 6),
    });
    // A connection that breaks is replaced at the next use; without a listener it would end the process.
    pool.on("error", (error) => log.warn({ error: String(error) }, "an idle database connection broke"));
  }
  return pool.asked;
}

/** What a request that changes something has to write with its work, in the same transaction. */
export interface RequestWork {
  /** Called before each commit that belongs to the request. */
  beforeCommit(client: pg.PoolClient): Promise<void>;
  /** Facts about the change for the audit log, known once the request has been read. */
  readonly detail: Record<string, unknown>;
}

/** The request that is being answered; none outside of requests, and for those that change nothing. */
export const requestWork = new AsyncLocalStorage<RequestWork>();

/** Runs a modifying statement in its own transaction. */
export function write<R extends pg.QueryResultRow>(
  text: string,
  values?: unknown[],
): Promise<pg.QueryResult<R>> {
  return transaction((client) => client.query<R>(text, values));
}

/** Runs work in one transaction, with what the request has to write besides; rolled back where it throws. */
export function transaction<T>(work: (client: pg.PoolClient) => Promise<T>): Promise<T> {
  return withConnection(async (client, rollBack) => {
    try {
      await client.query("begin");
      const result = await work(client);
      await requestWork.getStore()?.beforeCommit(client);
      await client.query("commit");
      return result;
    } catch (error) {
      await rollBack();
      return told(error);
    }
  });
}

/** Runs work with its own connection. A broken one, or one whose rollback failed, is not returned to the pool. */
export async function withConnection<T>(
  work: (client: pg.PoolClient, rollBack: () => Promise<void>) => Promise<T>,
): Promise<T> {
  const client = await database().connect();
  let broken: Error | undefined;
  const onError = (error: Error) => {
    broken = error;
  };
  // Between two statements a connection breaks without anybody waiting for it.
  client.on("error", onError);
  const rollBack = async () => {
    await client.query("rollback").catch((failed: Error) => {
      broken ??= failed;
    });
  };
  try {
    return await work(client, rollBack);
  } finally {
    client.off("error", onError);
    client.release(broken);
  }
}
