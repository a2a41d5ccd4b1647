import { data } from "react-router";
import {
  changeAccount,
  hasAccounts,
  inviteAccount,
  linkFor,
  listAccounts,
  setPlanRole,
} from "../../server/access/accounts.ts";
import { signedInAs } from "../../server/access/actor.ts";
import { isPlanId } from "../../server/access/grants.ts";
import { permitAdministration } from "../../server/access/permit.ts";
import { isRole } from "../../server/access/roles.ts";
import { listDeletedPlans, listPlans, restorePlan } from "../../server/plans.ts";
import { visitorOf } from "../../server/session.ts";
import { badRequest, formBody, textOf } from "../engine/bodies.server.ts";
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
    accounts,
    plans: plans.map(({ id, name }) => ({ id, name })),
    deleted,
    shared: await hasAccounts(),
    who: signedInAs(request)?.name ?? null,
  };
}

const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

export async function action({ request }: Route.ActionArgs) {
  const by = permitAdministration(request);
  const visitor = await visitorOf(request);
  const form = await formBody(request);
  const [account, role] = [textOf(form, "account"), textOf(form, "role")];
  const told = (error: string, link = "") => data({ error, link }, { status: error === "" ? 200 : 400 });
  const linkOf = (secret: string) => `${new URL(request.url).origin}/invitation/${secret}`;
  const doing = textOf(form, "do");
  if (doing === "invite") {
    if (!isRole(role)) badRequest("There is no such role.");
    // The first account signs everybody out who has none: it must be one that can make others.
    if (role !== "administers" && !(await hasAccounts()))
      return told("The first account administers: nobody could make another one else.");
    const made = await inviteAccount(by, textOf(form, "name"), role, visitor.name);
    return made.ok ? told("", linkOf(made.secret)) : told(made.error);
  }
  if (doing === "restore") {
    const plan = textOf(form, "plan");
    return told((await restorePlan(by, plan)) ? "" : "There is no such plan to bring back.");
  }
  if (!UUID.test(account)) badRequest("There is no such account.");
  switch (doing) {
    case "role": {
      if (!isRole(role)) badRequest("There is no such role.");
      const done = await changeAccount(by, account, { role });
      return told(done.ok ? "" : done.error);
    }
    case "disable":
    case "enable": {
      const done = await changeAccount(by, account, { disabled: doing === "disable" });
      return told(done.ok ? "" : done.error);
    }
    case "link": {
      const secret = await linkFor(by, account, visitor.name);
      return secret === null ? told("There is no such account.") : told("", linkOf(secret));
    }
    case "plan role": {
      const plan = textOf(form, "plan");
      if (!isPlanId(plan)) badRequest("There is no such plan.");
      const done = await setPlanRole(by, plan, account, isRole(role) ? role : null);
      return told(done.ok ? "" : done.error);
    }
    default:
      badRequest("This does not say what is to be done.");
  }
}

export function meta() {
  return [{ title: "Accounts · Iron Fork" }];
}

export default function Page({ loaderData, actionData }: Route.ComponentProps) {
  return <AccountsView {...loaderData} told={actionData ?? null} />;
}
