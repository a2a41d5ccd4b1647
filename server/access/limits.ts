import { RateLimiterPostgres, RateLimiterRes } from "rate-limiter-flexible";
import { formatPrefix, parseAddress, prefixOf } from "../../core/address/index.ts";
import { database } from "../pool.ts";
import { digestOf } from "./secrets.ts";

interface Limit {
  readonly points: number;
  /** In seconds. */
  readonly duration: number;
}

/** Sign-in attempts. The primary limit is per name and address, so that guessing from elsewhere locks out neither the
 * owner nor colleagues behind the same address. A name as a whole has the limit of ASVS 2.2.1. An address with many
 * failures is slowed down, not locked. */
const limits = {
  pair: { points: 10, duration: 15 * 60 },
  name: { points: 100, duration: 60 * 60 },
  address: { points: 60, duration: 15 * 60 },
  slow: { points: 1, duration: 2 },
} as const satisfies Record<string, Limit>;

type Kind = keyof typeof limits;

let limiters: Readonly<Record<Kind, RateLimiterPostgres>> | null = null;

function limiter(kind: Kind): RateLimiterPostgres {
  limiters ??= {
    pair: made("pair"),
    name: made("name"),
    address: made("address"),
    slow: made("slow"),
  };
  return limiters[kind];
}

function made(kind: Kind) {
  return new RateLimiterPostgres({
    // The limiter only sends single statements.
    storeClient: {
      query: (statement: { text: string; values: unknown[] }) =>
        database().query(statement.text, statement.values),
    },
    storeType: "client",
    schemaName: "iron_fork",
    tableName: "attempt",
    tableCreated: true,
    clearExpiredByTimeout: false,
    keyPrefix: kind,
    ...limits[kind],
  });
}

/** Counts an attempt. For how many milliseconds the limit stays reached; 0 if it is not. */
async function waitMs(kind: Kind, key: string): Promise<number> {
  try {
    await limiter(kind).consume(key);
    return 0;
  } catch (error) {
    if (!(error instanceof RateLimiterRes)) throw error;
    return Math.max(1, error.msBeforeNext);
  }
}

/** Expired rows are of no use. */
const FORGET = "delete from attempt where expire < $1";

/**
 * Counts an attempt to sign in, or to confirm who one is; why it is refused if there were too many.
 * @param address where it comes from
 * @param name the account's, or whatever is guessed
 * @param known whether the browser has signed in to this account before: no limit but that of the pair applies then
 */
export async function attempted(address: string, name: string, known: boolean): Promise<string | null> {
  // What an address does too often counts for no name: its colleagues would pay for it.
  const from = keyOf(networkOfClient(address));
  if (!known && (await waitMs("address", from)) > 0) {
    const atSlow = await waitMs("slow", from);
    if (atSlow > 0) return tooMany(atSlow);
  }
  const atPair = await waitMs("pair", pairKey(address, name, known));
  if (atPair > 0) return tooMany(atPair);
  const atName = known ? 0 : await waitMs("name", keyOf(name));
  return atName > 0 ? tooMany(atName) : null;
}

function tooMany(ms: number): string {
  const seconds = Math.ceil(ms / 1000);
  const wait = seconds < 60 ? `${seconds} s` : `${Math.ceil(seconds / 60)} min`;
  return `Too many attempts. Try again in ${wait}.`;
}

/** An attempt was right: it does not count, and neither do those at this name from this address before it. */
export async function attemptSucceeded(address: string, name: string, known: boolean): Promise<void> {
  await limiter("pair").delete(pairKey(address, name, known));
  if (!known) {
    await limiter("name").reward(keyOf(name), 1);
    await limiter("address").reward(keyOf(networkOfClient(address)), 1);
  }
  await database().query(FORGET, [Date.now()]);
}

const pairKey = (address: string, name: string, known: boolean) =>
  keyOf(`${networkOfClient(address)} ${name.trim()} ${known ? "known" : "unknown"}`);

/** An IPv6 client has at least a /64 to choose its addresses from: all of that counts as one. */
function networkOfClient(address: string): string {
  const plain = address.replace(/^::ffff:(?=\d+\.)/i, "");
  const read = parseAddress(plain);
  return read?.family === 6 ? formatPrefix(prefixOf(read, 64)) : plain;
}

/** Of one length, whatever was typed. */
const keyOf = (text: string) => digestOf(text.trim().toLowerCase()).toString("hex");
