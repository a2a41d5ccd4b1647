import { randomBytes } from "node:crypto";
import type pg from "pg";
import type { AdministeredPlan } from "../access/grants.ts";
import { sealBytes } from "../live/seal.ts";
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

/** Bytes of a secret; sealed it has more. */
const SECRET_BYTES = 32;

/** Where a secret is sealed for. */
export const placeOf = (plan: string, url: string) => `webhook ${plan} ${url}`;

/** Seals secrets that an earlier version kept in the clear; how many. */
export async function sealOldSecrets(): Promise<number> {
  const { rows } = await database().query<{ id: string; plan: string; url: string; secret: Buffer }>(
    sql.unsealed,
    [SECRET_BYTES],
  );
  for (const { id, plan, url, secret } of rows)
    await database().query(sql.seal, [id, sealBytes(secret, placeOf(plan, url))]);
  return rows.length;
}

/** Begins each secret, as the Standard Webhooks specification writes them. */
const PREFIX = "whsec_";

/** Adds a webhook for a plan's events; its signing secret is shown once. */
export async function addWebhook(
  plan: AdministeredPlan,
  url: string,
  by: string,
): Promise<{ id: string; secret: string }> {
  const secret = randomBytes(SECRET_BYTES);
  const { rows } = await write<{ id: string }>(sql.insert, [
    plan,
    url,
    sealBytes(secret, placeOf(plan, url)),
    by,
  ]);
  return { id: rows[0].id, secret: `${PREFIX}${secret.toString("base64")}` };
}

export async function webhooksOf(plan: AdministeredPlan): Promise<Webhook[]> {
  return (await database().query<Webhook & pg.QueryResultRow>(sql.list, [plan])).rows;
}

/** False where there was none. */
export async function dropWebhook(plan: AdministeredPlan, id: string): Promise<boolean> {
  return ((await write(sql.drop, [plan, id])).rowCount ?? 0) > 0;
}
