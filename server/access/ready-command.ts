import { database } from "../pool.ts";
import { hasAccounts } from "./accounts.ts";
import { providerSettings } from "./provider.ts";

/** Ends with 0 where people sign in here, 1 where they do not. Run by bin/start before it serves others. */
try {
  process.exitCode = providerSettings() !== null || (await hasAccounts()) ? 0 : 1;
} finally {
  await database().end();
}
