import { randomBytes } from "node:crypto";
import type pg from "pg";
import type { AdministeredPlan } from "../access/grants.ts";
import { database, write } from "../pool.ts";
import { sql } from "./sql.ts";

export interface Webhook {
  readonly id: string;
  readonly url: string;
  readonly madeBy: string;
  readonly madeAt: Date;
  readonly lastAt: Date | null;
  readonly lastTold: string | null;
}

/** What others are told: what was done, to which plan, by whom, when. */
export interface Told {
  readonly type: string;
  readonly plan: string;
  readonly subject: string;
  readonly who: string;
  readonly at: string;
  readonly request: string;
}

/** Begins each secret, as the Standard Webhooks specification writes them. */
const PREFIX = "whsec_";

/** Has others told of what is done to a plan; the secret by which they know us is told this once. */
export async function addWebhook(
  plan: AdministeredPlan,
  url: string,
  by: string,
): Promise<{ id: string; secret: string }> {
  const secret = randomBytes(32);
  const { rows } = await database().query<{ id: string }>(sql.insert, [plan, url, secret, by]);
  return { id: rows[0].id, secret: `${PREFIX}${secret.toString("base64")}` };
}

export async function webhooksOf(plan: AdministeredPlan): Promise<Webhook[]> {
  return (await database().query<Webhook & pg.QueryResultRow>(sql.list, [plan])).rows;
}

/** False where there was none. */
export async function dropWebhook(plan: AdministeredPlan, id: string): Promise<boolean> {
  return ((await write(sql.drop, [plan, id])).rowCount ?? 0) > 0;
}

/** Puts what was done where workers take it from. */
export async function tellOthers(plan: string, told: Told): Promise<void> {
  await database().query(sql.tell, [plan, JSON.stringify(told)]);
}
