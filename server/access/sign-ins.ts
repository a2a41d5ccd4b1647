import { database, transaction, write } from "../pool.ts";
import type { Actor } from "./actor.ts";
import { noteUse } from "./note-use.ts";
import type { Role } from "./roles.ts";
import { digestOf, freshSecret } from "./secrets.ts";
import { sql } from "./sql.ts";

/** Hours until an unused sign-in expires, and days until any does. */
const IDLE_HOURS = 12;
const MAX_DAYS = 14;

/** __Host-: this host only, all paths, over TLS or on this machine (RFC 6265bis, 4.1.3.2). */
export const COOKIE = "__Host-iron-fork-sign-in";

export type How = "password" | "passkey" | "provider" | "invitation";

export interface SignIn {
  readonly id: string;
  readonly agent: string;
  readonly address: string;
  readonly how: How;
  readonly madeAt: Date;
  readonly seenAt: Date;
}

/** The cookie by which a browser is known to have signed in to an account before. */
const DEVICE = "__Host-iron-fork-device";
const DEVICE_DAYS = 180;

const cookie = (name: string, value: string, seconds: number) =>
  `${name}=${value}; Path=/; Secure; HttpOnly; SameSite=Lax; Max-Age=${seconds}`;

/** Signs a browser in with a new secret; returns the headers that set it. */
export async function beginSignIn(
  account: string,
  how: How,
  from: { agent: string; address: string; cookies?: string | null },
): Promise<[string, string][]> {
  const secret = freshSecret();
  const device = secretOf(DEVICE, from.cookies) ?? freshSecret();
  await database().query(sql.forgetSignIns, [IDLE_HOURS, MAX_DAYS]);
  await transaction(async (client) => {
    await client.query(sql.beginSignIn, [
      digestOf(secret),
      account,
      from.agent.slice(0, 300),
      from.address.slice(0, 100),
      how,
    ]);
    await client.query(sql.knowDevice, [digestOf(device), account]);
  });
  return [
    ["Set-Cookie", cookie(COOKIE, secret, MAX_DAYS * 86_400)],
    ["Set-Cookie", cookie(DEVICE, device, DEVICE_DAYS * 86_400)],
  ];
}

/** Whether a browser has signed in to the account of this name before. */
export async function isKnownDevice(cookies: string | null, name: string): Promise<boolean> {
  const device = secretOf(DEVICE, cookies);
  if (device === null) return false;
  const { rows } = await database().query<{ known: boolean }>(sql.isKnownDevice, [
    digestOf(device),
    name.trim(),
  ]);
  return rows[0].known;
}

/** The header that takes a browser's sign-in away. */
export const SIGNED_OUT = cookie(COOKIE, "", 0);

/** The secret of a sign-in in a Cookie header; null without one. */
export function secretIn(cookies: string | null | undefined): string | null {
  return secretOf(COOKIE, cookies);
}

/** The secret in the cookie of this name; null if missing or malformed. */
export function secretOf(wanted: string, cookies: string | null | undefined): string | null {
  for (const part of (cookies ?? "").split(";")) {
    const [name, value] = part.trim().split("=");
    if (name === wanted && /^[\w-]{43}$/.test(value ?? "")) return value;
  }
  return null;
}

/** The account signed in on a browser; null if signed out or expired. */
export async function actorBySignIn(secret: string): Promise<Actor | null> {
  interface Row {
    account: string;
    name: string;
    role: Role;
    plans: Record<string, Role>;
    stale: boolean;
  }
  const digest = digestOf(secret);
  const { rows } = await database().query<Row & Record<string, unknown>>(sql.findSignIn, [
    digest,
    IDLE_HOURS,
    MAX_DAYS,
  ]);
  const [row] = rows;
  if (row?.stale) noteUse(sql.signInSeen, digest);
  return row
    ? { account: row.account, name: row.name, role: row.role, plans: row.plans, via: "sign-in" }
    : null;
}

export async function endSignIn(secret: string): Promise<void> {
  await write(sql.endSignIn, [digestOf(secret)]);
}

/** Ends all sign-ins of an account but the one of this secret. */
export async function endOtherSignIns(account: string, secret: string | null): Promise<void> {
  await write(sql.endSignIns, [account, secret === null ? null : digestOf(secret)]);
}

export async function endOneSignIn(account: string, id: string): Promise<void> {
  await write(sql.endOneSignIn, [account, id]);
}

export async function signInsOf(account: string): Promise<SignIn[]> {
  return (await database().query<SignIn & Record<string, unknown>>(sql.signInsOf, [account])).rows;
}

/** Which of an account's sign-ins a secret is. */
export function signInId(secret: string | null): string {
  return secret === null ? "" : digestOf(secret).toString("hex");
}
