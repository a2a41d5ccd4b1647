import type { EditablePlan, ReadablePlan } from "./access/grants.ts";
import { database, transaction } from "./pool.ts";
import { sql } from "./sql.ts";

/** What one device said of itself at one time. `facts` is kept as it came; its shape is checked where it comes in. */
export interface KeptReading<F> {
  id: string;
  device: string;
  readAt: Date;
  author: string;
  facts: F;
}

/** Readings of a device that are kept: older ones make room. */
const KEPT = 20;

/** Keeps what devices said; `prefixes` are the networks that each of them knows (each a valid CIDR block). */
export async function keepReadings(
  plan: EditablePlan,
  author: string,
  readings: readonly { device: string; facts: unknown; prefixes: readonly string[] }[],
): Promise<void> {
  await transaction(async (client) => {
    for (const { device, facts, prefixes } of readings) {
      const values = [plan, device, author, JSON.stringify(facts)];
      const { rows } = await client.query<{ id: string }>(sql.insertReading, values);
      await client.query(sql.insertReadingPrefixes, [rows[0].id, [...new Set(prefixes)]]);
      await client.query(sql.forgetReadings, [plan, device, KEPT]);
    }
  });
}

/** The newest reading of each device; of those alone that know a network with the address, where one is given. */
export async function newestReadings<F>(
  plan: ReadablePlan,
  address: string | null,
): Promise<KeptReading<F>[]> {
  return (await database().query<KeptReading<F>>(sql.newestReadings, [plan, address])).rows;
}
