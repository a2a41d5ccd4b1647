import { readdirSync, readFileSync } from "node:fs";
import { database } from "../pool.ts";
import { countRows, digestOf, manifestSchema } from "./manifest.ts";

const sql = {
  planTable: "select to_regclass('iron_fork.plan') is not null as there",
  anyPlan: "select exists (select from plan) as there",
} as const;

/** Run by bin/restore: before the restore, whether a backup is complete and may replace existing plans; afterwards,
 * with --restored, whether everything was restored. */
async function check(args: readonly string[]): Promise<string | null> {
  const [manifestFile, dump] = args;
  const manifest = manifestSchema.safeParse(JSON.parse(readFileSync(manifestFile, "utf8")));
  if (!manifest.success) return "The backup is of a version that is not known here.";
  const { migration, digest, rows: wanted } = manifest.data;
  if (args.includes("--restored")) {
    const now = await countRows();
    // While it was written, more may have come: what the dump holds is then less than was counted after it.
    const missing = Object.entries(wanted).filter(([table]) => !(table in now));
    return missing.length ? `These tables are missing: ${missing.map(([table]) => table).join(", ")}.` : null;
  }
  if ((await digestOf(dump)) !== digest)
    return "The backup is damaged: its dump does not match its manifest.";
  const known = readdirSync(new URL("../../db/migrations/", import.meta.url));
  if (migration !== "" && !known.includes(migration))
    return `The backup is of a later version of Iron Fork, with migration ${migration}; restore it with that.`;
  const isThere = async (statement: string) =>
    (await database().query<{ there: boolean }>(statement)).rows[0].there;
  if ((await isThere(sql.planTable)) && (await isThere(sql.anyPlan)) && !args.includes("--replace"))
    return "There are plans in this database already. Give --replace to remove all of it first, or name an empty database by DATABASE_URL.";
  return null;
}

const wrong = await check(process.argv.slice(2)).catch((error) => String(error.message ?? error));
await database().end();
if (wrong !== null) {
  console.error(wrong);
  process.exitCode = 1;
}
