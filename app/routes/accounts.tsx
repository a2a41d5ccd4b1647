import { data } from "react-router";
import { z } from "zod";
import {
  changeAccount,
  hasAccounts,
  inviteAccount,
  linkFor,
  listAccounts,
  type Outcome,
  setPlanRole,
} from "../../server/access/accounts.ts";
import { signedInAs } from "../../server/access/actor.ts";
import { auditDetail } from "../../server/access/audit.ts";
import { isConfusable } from "../../server/access/confusable-names.ts";
import type { Administration } from "../../server/access/grants.ts";
import { permitAdministration } from "../../server/access/permit.ts";
import { roleNames, roles } from "../../server/access/roles.ts";
import { listDeletedPlans, listPlans, restorePlan } from "../../server/plans.ts";
import { type Visitor, visitorOf } from "../../server/session.ts";
import { accountField, formOf, rowField, textField } from "../engine/bodies.server.ts";
import { AccountsView } from "../features/access/accounts-view.tsx";
import type { Route } from "./+types/accounts";

/** Who may do what; plans that were deleted. For administrators. */
export async function loader({ request }: Route.LoaderArgs) {
  const by = permitAdministration(request);
  const [accounts, plans, deleted] = await Promise.all([
    listAccounts(by),
    listPlans(() => true),
    listDeletedPlans(by),
  ]);
  return {
    accounts: accounts.map((account) => ({
      ...account,
      // Of before names were compared; a provider's person may also be renamed by hand.
      alike: accounts
        .filter(({ id, name }) => id !== account.id && isConfusable(name, account.name))
        .map(({ name }) => name),
    })),
    plans: plans.map(({ id, name }) => ({ id, name })),
    deleted,
    shared: await hasAccounts(),
    who: signedInAs(request)?.name ?? null,
  };
}

const role = z.enum(roles);
const formSchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("invite"), name: textField, role }),
  z.object({ do: z.literal("restore"), plan: rowField }),
  z.object({ do: z.literal("role"), account: accountField, role }),
  z.object({ do: z.literal("disable"), account: accountField }),
  z.object({ do: z.literal("enable"), account: accountField }),
  z.object({ do: z.literal("link"), account: accountField }),
  z.object({
    do: z.literal("plan role"),
    account: accountField,
    plan: rowField,
    // Any other value takes the role in the plan away.
    role: role.nullable().catch(null),
  }),
]);

interface ActionResult {
  readonly error: string;
  readonly link: string;
}

export async function action({ request }: Route.ActionArgs) {
  const by = permitAdministration(request);
  const form = await formOf(request, formSchema);
  const told = await act(form, by, await visitorOf(request), new URL(request.url).origin);
  return data(told, { status: told.error === "" ? 200 : 400 });
}

async function act(
  form: z.output<typeof formSchema>,
  by: Administration,
  visitor: Visitor,
  origin: string,
): Promise<ActionResult> {
  const told = (error: string, link = ""): ActionResult => ({ error, link });
  const outcome = (done: Outcome) => told(done.ok ? "" : done.error);
  const linkOf = (secret: string) => `${origin}/invitation/${secret}`;
  if ("account" in form) await auditAccount(by, form.account);
  if ("role" in form) auditDetail({ role: form.role === null ? "workspace role" : roleNames[form.role] });
  switch (form.do) {
    case "invite": {
      // The first account signs everybody out who has none: it must be one that can make others.
      if (form.role !== "administers" && !(await hasAccounts()))
        return told("The first account must be an administrator, because only those can add accounts.");
      auditDetail({ name: form.name, role: roleNames[form.role] });
      const made = await inviteAccount(by, form.name, form.role, visitor.name);
      return made.ok ? told("", linkOf(made.secret)) : told(made.error);
    }
    case "restore":
      return told((await restorePlan(by, form.plan)) ? "" : "There is no such deleted plan.");
    case "role":
      return outcome(await changeAccount(by, form.account, { role: form.role }));
    case "disable":
    case "enable":
      return outcome(await changeAccount(by, form.account, { disabled: form.do === "disable" }));
    case "link": {
      const secret = await linkFor(by, form.account, visitor.name);
      return secret === null ? told("There is no such account.") : told("", linkOf(secret));
    }
    case "plan role":
      return outcome(await setPlanRole(by, form.plan, form.account, form.role));
  }
}

/** Names the account in the audit log. */
async function auditAccount(by: Administration, id: string): Promise<void> {
  const account = (await listAccounts(by)).find((one) => one.id === id);
  if (account) auditDetail({ name: account.name });
}

export function meta() {
  return [{ title: "Accounts · Iron Fork" }];
}

export default function Page({ loaderData, actionData }: Route.ComponentProps) {
  return <AccountsView {...loaderData} told={actionData ?? null} />;
}
