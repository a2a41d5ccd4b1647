import { database } from "../pool.ts";
import { ownAdministration } from "./grants.ts";
import { recordLines, verifyRecord } from "./record.ts";

/** Verifies the record, or writes it out as JSON lines. Run by bin/record. */
async function main() {
  if (process.argv[2] === "export") {
    for await (const line of recordLines(ownAdministration)) process.stdout.write(line);
    return;
  }
  const found = await verifyRecord();
  if (found.ok) {
    console.log(`The record is whole: ${found.rows} rows.`);
    if (found.rows > 0) console.log(`The digest of the last is ${found.last}.`);
  } else {
    console.error(`The record is not whole: row ${found.number}: ${found.why}.`);
    process.exitCode = 1;
  }
}

try {
  await main();
} finally {
  await database().end();
}
