import { RateLimiterPostgres, RateLimiterRes } from "rate-limiter-flexible";
import { database } from "../pool.ts";
import { digestOf } from "./secrets.ts";

/** Attempts to sign in by which something is kept from guessing: how many, and in how many seconds. */
const FROM_ADDRESS = { points: 60, duration: 15 * 60 } as const;
const AT_NAME = { points: 10, duration: 15 * 60 } as const;

let limiters: { address: RateLimiterPostgres; name: RateLimiterPostgres } | null = null;

function made() {
  limiters ??= {
    address: limiter("address", FROM_ADDRESS),
    name: limiter("name", AT_NAME),
  };
  return limiters;
}

function limiter(keyPrefix: string, limits: { points: number; duration: number }) {
  return new RateLimiterPostgres({
    // What is asked of it is one statement.
    storeClient: {
      query: (statement: { text: string; values: unknown[] }) =>
        database().query(statement.text, statement.values),
    },
    storeType: "client",
    schemaName: "iron_fork",
    tableName: "attempt",
    tableCreated: true,
    clearExpiredByTimeout: false,
    keyPrefix,
    ...limits,
  });
}

/** Counts an attempt to sign in; where there were too many, a sentence. What is right is counted too, and forgotten then. */
export async function attempted(address: string, name: string): Promise<string | null> {
  const { address: byAddress, name: byName } = made();
  try {
    await byAddress.consume(keyOf(address));
    await byName.consume(keyOf(name));
    return null;
  } catch (error) {
    if (!(error instanceof RateLimiterRes)) throw error;
    return `there were too many attempts: try again in ${Math.ceil(error.msBeforeNext / 60_000)} minutes`;
  }
}

/** Forgets the attempts at a name, once somebody has signed in by it. */
export async function forgetAttempts(name: string): Promise<void> {
  await made().name.delete(keyOf(name));
}

/** Of one length, whatever was typed. */
const keyOf = (text: string) => digestOf(text.trim().toLowerCase()).toString("hex");
