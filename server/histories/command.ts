import { database } from "../pool.ts";
import { writeHistories } from "./export.ts";
import { importHistories } from "./import.ts";

/** Writes plans with their histories as files, or takes them in. Run by bin/plans. */
const [deed, folder] = process.argv.slice(2);
try {
  if (deed === "export") {
    const { plans, revisions } = await writeHistories(folder);
    console.log(`Written: ${plans} plans with ${revisions} revisions, in ${folder}.`);
  } else {
    for (const { id, name, revisions } of await importHistories(folder))
      console.log(`Taken: ${name}, as plan ${id}, with ${revisions} revisions.`);
  }
} catch (error) {
  console.error(error instanceof Error ? error.message : String(error));
  console.error(deed === "export" ? "Nothing was written." : "Nothing was taken.");
  process.exitCode = 1;
} finally {
  await database().end();
}
