import { database, write } from "../pool.ts";
import type { Actor } from "./actor.ts";
import { noteUse } from "./note-use.ts";
import { atMost, type Role } from "./roles.ts";
import { digestOf, freshSecret } from "./secrets.ts";
import { sql } from "./sql.ts";

/** A prefix that makes leaked tokens recognizable. */
const PREFIX = "ironfork_";
export const MAX_DAYS = 366;

export interface TokenRow {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  readonly plan: string | null;
  readonly madeAt: Date;
  readonly expiresAt: Date;
  readonly usedAt: Date | null;
  readonly revokedAt: Date | null;
}

/** Makes a token for programs; it is shown once, and only its digest is stored. */
export async function makeToken(
  account: string | null,
  {
    name,
    role,
    plan,
    days,
  }: { name: string; role: Exclude<Role, "none">; plan: string | null; days: number },
): Promise<string> {
  const token = `${PREFIX}${freshSecret()}`;
  await write(sql.insertToken, [digestOf(token), account, name, role, plan, days]);
  return token;
}

export async function tokensOf(account: string | null): Promise<TokenRow[]> {
  return (await database().query<TokenRow & Record<string, unknown>>(sql.tokensOf, [account])).rows;
}

export async function revokeToken(account: string | null, id: string): Promise<void> {
  await write(sql.revokeToken, [account, id]);
}

/** The account of a token with the token's limited role, and only in its plan if it names one; null if invalid. */
export async function actorByToken(token: string): Promise<Actor | null> {
  if (!token.startsWith(PREFIX) || token.length > 200) return null;
  interface Row {
    account: string | null;
    token: string;
    scope: Role;
    plan: string | null;
    name: string | null;
    role: Role | null;
    plans: Record<string, Role>;
    stale: boolean;
  }
  const digest = digestOf(token);
  const { rows } = await database().query<Row & Record<string, unknown>>(sql.findToken, [digest]);
  const [row] = rows;
  if (!row) return null;
  if (row.stale) noteUse(sql.tokenUsed, digest);
  const { scope, plan } = row;
  const own = row.role ?? "administers";
  const limited = Object.fromEntries(
    Object.entries(row.plans).map(([id, role]) => [
      id,
      plan === null || plan === id ? atMost(role, scope) : "none",
    ]),
  ) as Record<string, Role>;
  if (plan !== null) limited[plan] = atMost(row.plans[plan] ?? own, scope);
  return {
    account: row.account,
    name: row.name === null ? row.token : `${row.name} (${row.token})`,
    role: plan === null ? atMost(own, scope) : "none",
    plans: limited,
    via: "token",
  };
}
