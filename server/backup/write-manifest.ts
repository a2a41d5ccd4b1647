import { database } from "../pool.ts";
import { countRows, digestOf, latestMigration, type Manifest } from "./manifest.ts";

/** Prints the manifest of a backup whose dump lies in the file given. Run by bin/backup. */
const manifest: Manifest = {
  what: "iron-fork backup",
  version: 1,
  madeAt: new Date().toISOString(),
  migration: await latestMigration(),
  rows: await countRows(),
  digest: await digestOf(process.argv[2]),
};
await database().end();
console.log(JSON.stringify(manifest, null, 2));
