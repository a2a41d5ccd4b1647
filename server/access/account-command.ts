import { migrate } from "../migrate.ts";
import { database } from "../pool.ts";
import { hasAccounts, inviteAccount, linkFor, listAccounts } from "./accounts.ts";
import { ownAdministration } from "./grants.ts";
import { isRole, roleNames, roles } from "./roles.ts";

/** Makes an account, or another one-time link to one, and prints the link. Run by bin/account. */
async function main() {
  const [name, role = "administers", address = "http://127.0.0.1:3000"] = process.argv.slice(2);
  if (!isRole(role)) throw new Error(`there is no role ${role}; there are ${roles.join(", ")}`);
  await migrate();
  if (role !== "administers" && !(await hasAccounts()))
    throw new Error("the first account must be an administrator, because only those can add accounts");
  const known = (await listAccounts(ownAdministration)).find(
    (one) => one.name.toLowerCase() === name.toLowerCase(),
  );
  const made = known
    ? { ok: true as const, secret: (await linkFor(ownAdministration, known.id, "bin/account")) ?? "" }
    : await inviteAccount(ownAdministration, name, role, "bin/account");
  if (!made.ok) throw new Error(made.error);
  console.log(
    known
      ? `New sign-in link for ${known.name} (${roleNames[known.role]}).`
      : `Account ${name} (${roleNames[role]}) added.`,
  );
  console.log("Open this link once, within three days, and choose a password:");
  console.log(`\n  ${address.replace(/\/$/, "")}/invitation/${made.secret}\n`);
}

try {
  await main();
} catch (error) {
  console.error(error instanceof Error ? error.message : String(error));
  process.exitCode = 1;
} finally {
  await database().end();
}
