import { database } from "../pool.ts";
import { recordLines, verifyRecord } from "./audit-log.ts";
import { ownAdministration } from "./grants.ts";

/** Verifies the audit log or writes it as JSON lines. Run by bin/audit-log. */
async function main() {
  if (process.argv[2] === "export") {
    for await (const line of recordLines(ownAdministration)) process.stdout.write(line);
    return;
  }
  const found = await verifyRecord();
  if (found.ok) {
    console.log(`The audit log is complete: ${found.rows} rows.`);
    if (found.rows > 0) console.log(`Digest of the last row: ${found.last}.`);
  } else {
    console.error(`The audit log is not intact: row ${found.number}: ${found.why}.`);
    process.exitCode = 1;
  }
}

try {
  await main();
} finally {
  await database().end();
}
