import { createHmac } from "node:crypto";
import { lookup } from "node:dns/promises";
import { request as plainRequest } from "node:http";
import { request as secureRequest } from "node:https";
import { isIP } from "node:net";
import { setTimeout as rest } from "node:timers/promises";
import type pg from "pg";
import { isAllowed, readAllowed } from "../../live/target.ts";
import { errorText, log } from "../log.ts";
import { database } from "../pool.ts";
import { sql } from "./sql.ts";

/** Between two looks at what is due, in milliseconds. */
const LOOK_EVERY_MS = 1500;
const AT_ONCE = 10;
/** How long others may take to answer. */
const ANSWER_MS = 10_000;
/** Tries, and seconds until the next after each: in all about a day. */
const WAITS = [5, 30, 120, 600, 3600, 4 * 3600, 16 * 3600] as const;
const KEPT_DAYS = 30;

interface Delivery {
  readonly id: string;
  readonly webhook: string;
  readonly event: unknown;
  readonly tries: number;
  readonly url: string;
  readonly secret: Buffer;
}

/** Where others may be told: the prefixes of IRON_FORK_HOOKS; nowhere where it is not set, or cannot be read. */
export function hookPrefixes(env: NodeJS.ProcessEnv = process.env): string[] {
  return readAllowed(env.IRON_FORK_HOOKS ?? "") ?? [];
}

/** The headers by which others know that it is us, and what for (Standard Webhooks 1.0). */
function signatureOf(secret: Buffer, id: string, seconds: number, body: string): string {
  return `v1,${createHmac("sha256", secret).update(`${id}.${seconds}.${body}`).digest("base64")}`;
}

/** Tells others what is due, until the worker ends. */
export async function deliverWhenDue(ending: AbortSignal): Promise<void> {
  while (!ending.aborted) {
    try {
      const count = await deliverDue(hookPrefixes());
      if (count === AT_ONCE) continue;
    } catch (error) {
      log.warn({ error: errorText(error) }, "others could not be told");
    }
    await rest(LOOK_EVERY_MS, undefined, { signal: ending }).catch(() => undefined);
  }
}

/** Tells what is due once; how many there were. */
export async function deliverDue(allowed: readonly string[]): Promise<number> {
  const { rows } = await database().query<Delivery & pg.QueryResultRow>(sql.claim, [
    AT_ONCE,
    ANSWER_MS / 1000 + 20,
  ]);
  await Promise.all(rows.map((delivery) => deliver(delivery, allowed)));
  if (rows.length > 0) await database().query(sql.forget, [KEPT_DAYS]);
  return rows.length;
}

async function deliver({ id, webhook, event, tries, url, secret }: Delivery, allowed: readonly string[]) {
  let told: string;
  let ok = false;
  try {
    const status = await post(url, id, event, secret, allowed);
    ok = status >= 200 && status < 300;
    told = `answered ${status}`;
  } catch (error) {
    told = error instanceof Error ? error.message : String(error);
  }
  const wait = WAITS[tries - 1];
  if (ok) await database().query(sql.done, [id, told]);
  else if (wait === undefined) await database().query(sql.done, [id, `given up: ${told}`.slice(0, 300)]);
  else await database().query(sql.later, [id, wait, told.slice(0, 300)]);
  await database().query(sql.note, [webhook, told.slice(0, 300)]);
}

/** Posts an event; the status that it was answered with. It goes to an allowed address alone, whatever the name leads to later. */
async function post(
  url: string,
  id: string,
  event: unknown,
  secret: Buffer,
  allowed: readonly string[],
): Promise<number> {
  const to = new URL(url);
  const host = to.hostname.replace(/^\[|\]$/g, "");
  const address = isIP(host) ? host : (await lookup(host)).address;
  if (!isAllowed(address, allowed)) throw new Error(`${address} lies in no prefix of IRON_FORK_HOOKS`);
  const body = JSON.stringify(event);
  const seconds = Math.floor(Date.now() / 1000);
  const send = to.protocol === "https:" ? secureRequest : plainRequest;
  return new Promise((resolve, reject) => {
    const sent = send(
      to,
      {
        method: "POST",
        timeout: ANSWER_MS,
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
        answer.resume();
        resolve(answer.statusCode ?? 0);
      },
    );
    sent.on("timeout", () => sent.destroy(new Error("no answer in time")));
    sent.on("error", reject);
    sent.end(body);
  });
}
