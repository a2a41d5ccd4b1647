import { setTimeout as rest } from "node:timers/promises";
import pg from "pg";
import { errorText, log } from "../log.ts";
import { needDatabaseUrl } from "../pool.ts";

/** Sent by the triggers of `db/migrations/017_notifications.sql`. */
export type Topic = "sweep" | "reading" | "rehearsal" | "delivery" | "change";

/** A topic for all its notifications, or "TOPIC ID" for those of one item. */
export type Wanted = Topic | `${Topic} ${string}`;

const CHANNEL = "iron_fork";
/** Wait before the connection is opened again, in milliseconds. */
const RECONNECT_MS = 2000;

const subscriptions = new Set<Subscription>();
let connection: pg.Client | null = null;

/** Opens the process's one listening connection; until it is open, subscribers rely on their timeouts. */
async function listen() {
  const client = new pg.Client({ connectionString: needDatabaseUrl() });
  connection = client;
  client.on("error", (error) => log.warn({ error: errorText(error) }, "the listening connection broke"));
  client.on("end", () => void reopen(client));
  client.on("notification", ({ payload = "" }) => {
    for (const subscription of subscriptions) subscription.receive(payload);
  });
  try {
    await client.connect();
    await client.query(`listen ${CHANNEL}`);
  } catch (error) {
    log.warn({ error: errorText(error) }, "notifications cannot be received");
    await reopen(client);
  }
}

/** Replaces a lost connection after a while; one that was closed on purpose is not replaced. */
async function reopen(lost: pg.Client) {
  await rest(RECONNECT_MS, undefined, { ref: false });
  if (connection !== lost) return;
  connection = null;
  if (subscriptions.size > 0) await listen();
}

/** Waits for notifications of some topics; one that arrives between two waits ends the next at once. */
export class Subscription {
  private isPending = false;
  private readonly waiters = new Set<() => void>();

  constructor(private readonly topics: readonly Wanted[]) {
    subscriptions.add(this);
    if (!connection) void listen();
  }

  receive(payload: string) {
    const [topic] = payload.split(" ");
    if (!this.topics.some((wanted) => wanted === payload || wanted === topic)) return;
    this.isPending = this.waiters.size === 0;
    for (const wake of this.waiters) wake();
  }

  /** Resolves at the next notification, after `withinMs`, or when `signal` aborts. */
  async next(withinMs: number, signal?: AbortSignal): Promise<void> {
    if (signal?.aborted) return;
    if (this.isPending) {
      this.isPending = false;
      return;
    }
    await new Promise<void>((resolve) => {
      const wake = () => {
        clearTimeout(timer);
        signal?.removeEventListener("abort", wake);
        this.waiters.delete(wake);
        resolve();
      };
      const timer = setTimeout(wake, withinMs);
      signal?.addEventListener("abort", wake, { once: true });
      this.waiters.add(wake);
    });
  }

  /** Ends the subscription, and the connection with the last one. */
  close() {
    subscriptions.delete(this);
    if (subscriptions.size > 0 || !connection) return;
    const unused = connection;
    connection = null;
    unused.end().catch(() => {});
  }
}
