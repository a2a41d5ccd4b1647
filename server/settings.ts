import { database } from "./pool.ts";

const sql = {
  /** name, value: keeps an existing value, and returns the stored one */
  keepSetting: `
    with added as (insert into setting (name, value) values ($1, $2) on conflict (name) do nothing returning value)
    select value from added union all select value from setting where name = $1 limit 1`,
} as const;

/** Keeps a value under a name unless one is there already; gives the one that holds. */
export async function keepSetting(name: string, value: string): Promise<string> {
  const { rows } = await database().query<{ value: string }>(sql.keepSetting, [name, value]);
  // Where another server kept one in the same moment, it shows at the second look.
  return rows[0]?.value ?? keepSetting(name, value);
}
