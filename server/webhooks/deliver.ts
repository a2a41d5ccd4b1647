import { createHmac } from "node:crypto";
import { lookup } from "node:dns/promises";
import { request as plainRequest } from "node:http";
import { request as secureRequest } from "node:https";
import { isIP } from "node:net";
import type pg from "pg";
import { isAllowed, readAllowed } from "../../live/target.ts";
import { Subscription } from "../jobs/notifications.ts";
import { NoKey, unsealBytes } from "../live/seal.ts";
import { errorText, log } from "../log.ts";
import { database } from "../pool.ts";
import { sql } from "./sql.ts";
import { placeOf } from "./webhooks.ts";

/** The longest wait without a notification, in milliseconds: repeated deliveries become due by time. */
const FALLBACK_MS = 2500;
/** Concurrent deliveries. */
const AT_ONCE = 32;
/** How long a delivery may take in all, from looking the name up to the answer's last byte. */
const DELIVERY_MS = 10_000;
/** The most bytes of a response that are received; its content is ignored. */
const MAX_ANSWER_BYTES = 64 * 1024;
/** Tries, and seconds until the next after each: in all about a day. */
const WAITS = [5, 30, 120, 600, 3600, 4 * 3600, 16 * 3600] as const;
const KEPT_DAYS = 30;

interface Delivery {
  readonly id: string;
  readonly webhook: string;
  readonly event: unknown;
  readonly tries: number;
  readonly url: string;
  readonly plan: string;
  /** As it is kept: sealed. */
  readonly secret: Buffer;
}

/** Allowed delivery targets: the prefixes of IRON_FORK_HOOKS; none if it is not set or malformed. */
export function hookPrefixes(env: NodeJS.ProcessEnv = process.env): string[] {
  return readAllowed(env.IRON_FORK_HOOKS ?? "") ?? [];
}

/** The headers by which others know that it is us, and what for (Standard Webhooks 1.0). */
function signatureOf(secret: Buffer, id: string, seconds: number, body: string): string {
  return `v1,${createHmac("sha256", secret).update(`${id}.${seconds}.${body}`).digest("base64")}`;
}

/** Delivers due events, each webhook separately, until the worker ends. */
export async function deliverWhenDue(ending: AbortSignal, deliveryMs = DELIVERY_MS): Promise<void> {
  const underWay = new Map<string, Promise<void>>();
  const news = new Subscription(["delivery"]);
  while (!ending.aborted) {
    const begun = await beginDue(underWay, hookPrefixes(), deliveryMs).catch((error) => {
      log.warn({ error: errorText(error) }, "pending deliveries could not be loaded");
      return 0;
    });
    if (begun === 0) await news.next(FALLBACK_MS, ending);
  }
  news.close();
  await Promise.all(underWay.values());
}

/** Delivers due events once; returns their number. */
export async function deliverDue(allowed: readonly string[]): Promise<number> {
  const underWay = new Map<string, Promise<void>>();
  const begun = await beginDue(underWay, allowed, DELIVERY_MS);
  await Promise.all(underWay.values());
  return begun;
}

/** Begins deliveries to receivers that none is under way to; how many. */
async function beginDue(
  underWay: Map<string, Promise<void>>,
  allowed: readonly string[],
  deliveryMs: number,
): Promise<number> {
  const free = AT_ONCE - underWay.size;
  if (free <= 0) return 0;
  const { rows } = await database().query<Delivery & pg.QueryResultRow>(sql.claim, [
    free,
    DELIVERY_MS / 1000 + 20,
    [...underWay.keys()],
  ]);
  for (const delivery of rows) {
    const { webhook } = delivery;
    const delivered = deliver(delivery, allowed, deliveryMs)
      .catch((error) => log.warn({ error: errorText(error) }, "a delivery could not be saved"))
      .finally(() => underWay.delete(webhook));
    underWay.set(webhook, delivered);
  }
  if (rows.length > 0) await database().query(sql.forget, [KEPT_DAYS]);
  return rows.length;
}

async function deliver(
  { id, webhook, event, tries, url, plan, secret }: Delivery,
  allowed: readonly string[],
  deliveryMs: number,
) {
  let result: string;
  let ok = false;
  try {
    const key = unsealBytes(secret, placeOf(plan, url));
    const status = await post(url, id, event, key, allowed, AbortSignal.timeout(deliveryMs));
    ok = status >= 200 && status < 300;
    result = `answered ${status}`;
  } catch (error) {
    result = whyNot(error, deliveryMs);
  }
  const wait = WAITS[tries - 1];
  if (ok) await database().query(sql.done, [id, result]);
  else if (wait === undefined) await database().query(sql.done, [id, `given up: ${result}`.slice(0, 300)]);
  else await database().query(sql.later, [id, wait, result.slice(0, 300)]);
  await database().query(sql.note, [webhook, result.slice(0, 300)]);
}

/** Why a delivery failed. Library messages may quote the request; the error code does not. */
function whyNot(error: unknown, deliveryMs: number): string {
  if (error instanceof NotAllowed || error instanceof NoKey) return error.message;
  const { name = "", code = "" } = (error ?? {}) as { name?: string; code?: string };
  if (name === "TimeoutError" || code === "ABORT_ERR") return `no response within ${deliveryMs / 1000} s`;
  return /^[A-Z][A-Z0-9_]{1,40}$/.test(code) ? `not delivered (${code})` : "not delivered";
}

/** The receiver's address lies in no prefix that is allowed. */
class NotAllowed extends Error {}

/** Milliseconds in which the name of a new receiver must be resolved. */
const RESOLVE_MS = 3000;

/** The reason why events may not be delivered to an address; null if they may. */
export async function refusalOf(url: string): Promise<string | null> {
  const allowed = hookPrefixes();
  if (allowed.length === 0)
    return "Webhooks are off. Start the server with `--tell PREFIX` to allow receivers.";
  const host = new URL(url).hostname.replace(/^\[|\]$/g, "");
  try {
    const address = isIP(host) ? host : await addressOf(host, AbortSignal.timeout(RESOLVE_MS));
    return isAllowed(address, allowed)
      ? null
      : `${host} is outside the prefixes that webhooks may be sent to (${allowed.join(", ")}).`;
  } catch {
    return `The host ${host.slice(0, 100)} cannot be resolved.`;
  }
}

/** Posts an event; the status that it was answered with. It goes to an allowed address alone, whatever the name leads to later. */
async function post(
  url: string,
  id: string,
  event: unknown,
  secret: Buffer,
  allowed: readonly string[],
  deadline: AbortSignal,
): Promise<number> {
  const to = new URL(url);
  const host = to.hostname.replace(/^\[|\]$/g, "");
  const address = isIP(host) ? host : await addressOf(host, deadline);
  if (!isAllowed(address, allowed))
    throw new NotAllowed(`${address} is outside the prefixes of IRON_FORK_HOOKS`);
  const body = JSON.stringify(event);
  const seconds = Math.floor(Date.now() / 1000);
  const send = to.protocol === "https:" ? secureRequest : plainRequest;
  return new Promise((resolve, reject) => {
    const sent = send(
      to,
      {
        method: "POST",
        signal: deadline,
        lookup: (_name, options, done) => {
          const family = isIP(address);
          if (typeof options === "object" && options.all) done(null, [{ address, family }]);
          else (done as (error: null, address: string, family: number) => void)(null, address, family);
        },
        headers: {
          "Content-Type": "application/json",
          "Content-Length": Buffer.byteLength(body),
          "webhook-id": id,
          "webhook-timestamp": String(seconds),
          "webhook-signature": signatureOf(secret, id, seconds, body),
        },
      },
      (answer) => {
        let bytes = 0;
        answer.on("data", (part: Buffer) => {
          bytes += part.length;
          if (bytes > MAX_ANSWER_BYTES) sent.destroy();
        });
        answer.on("error", () => {});
        // The status counts, whatever follows; the connection ends with the deadline.
        resolve(answer.statusCode ?? 0);
      },
    );
    sent.on("error", reject);
    sent.end(body);
  });
}

/** The address that a name leads to; looking it up may take as long as anything. */
function addressOf(host: string, deadline: AbortSignal): Promise<string> {
  return new Promise((resolve, reject) => {
    deadline.addEventListener("abort", () => reject(deadline.reason), { once: true });
    lookup(host).then(({ address }) => resolve(address), reject);
  });
}
