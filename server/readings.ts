import type { EditablePlan, ReadablePlan } from "./access/grants.ts";
import { database, transaction } from "./pool.ts";

const sql = {
  /** plan id, device, author, facts */
  insertReading:
    "insert into reading (plan, device, author, facts) values ($1, $2, $3, $4) returning id::text",
  /** reading, prefixes */
  insertReadingPrefixes: "insert into reading_prefix (reading, prefix) select $1, unnest($2::cidr[])",
  /** plan id, device, how many are kept */
  forgetReadings: `
    delete from reading where id in (
      select id from reading where plan = $1 and device = $2 order by read_at desc, id desc offset $3)`,
  /** plan id, an address or null: the newest reading of each device; with an address, of those that know it */
  newestReadings: `
    select * from (
      select distinct on (device) id::text, device, read_at as "readAt", author, facts
      from reading where plan = $1 order by device, read_at desc, id desc) newest
    where $2::inet is null or exists (
      select from reading_prefix p where p.reading = newest.id::bigint and p.prefix >>= $2::inet)
    order by device`,
} as const;

/** What one device said of itself at one time. `facts` is kept as it came; its shape is checked where it comes in. */
export interface ReadingRow<F> {
  id: string;
  device: string;
  readAt: Date;
  author: string;
  facts: F;
}

/** Readings kept per device; older ones are removed. */
const KEPT = 20;

/** Stores readings; `prefixes` are the networks that each device knows (valid CIDR blocks). */
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

/** The newest reading of each device; with an address, only of those that know a network with it. */
export async function newestReadings<F>(
  plan: ReadablePlan,
  address: string | null,
): Promise<ReadingRow<F>[]> {
  return (await database().query<ReadingRow<F>>(sql.newestReadings, [plan, address])).rows;
}
