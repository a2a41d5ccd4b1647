import { database } from "./pool.ts";
import { sql } from "./sql.ts";

/** Keeps a value under a name unless one is there already; gives the one that holds. */
export async function keepSetting(name: string, value: string): Promise<string> {
  const { rows } = await database().query<{ value: string }>(sql.keepSetting, [name, value]);
  // Where another server kept one in the same moment, it shows at the second look.
  return rows[0]?.value ?? keepSetting(name, value);
}
