import { database } from "../pool.ts";
import { hasAccounts } from "./accounts.ts";
import { providerSettings } from "./provider.ts";

/** Exits with 0 if sign-in is on, 1 if not. Run by bin/start before it accepts other hosts. */
try {
  process.exitCode = providerSettings() !== null || (await hasAccounts()) ? 0 : 1;
} finally {
  await database().end();
}
