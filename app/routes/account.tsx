import { data, redirect } from "react-router";
import { z } from "zod";
import { accountOf, changePassword, type Outcome } from "../../server/access/accounts.ts";
import { type Actor, FROM_HEADER, may, signedInAs } from "../../server/access/actor.ts";
import { auditDetail } from "../../server/access/audit.ts";
import { attempted, attemptSucceeded } from "../../server/access/limits.ts";
import { dropPasskey, partyOf, passkeysOf } from "../../server/access/passkeys.ts";
import { permitIfAllowed } from "../../server/access/permit.ts";
import { roleNames, roles } from "../../server/access/roles.ts";
import {
  endOneSignIn,
  endOtherSignIns,
  secretIn,
  signInId,
  signInsOf,
} from "../../server/access/sign-ins.ts";
import { MAX_DAYS, makeToken, revokeToken, tokensOf } from "../../server/access/tokens.ts";
import { headOf, listPlans } from "../../server/plans.ts";
import { formOf, rowField, textField } from "../engine/bodies.server.ts";
import { AccountView } from "../features/access/account-view.tsx";
import type { Route } from "./+types/account";

/** The user's own account: password, passkeys, sign-ins and tokens. With sign-in off: tokens. */
export async function loader({ request }: Route.LoaderArgs) {
  const actor = signedInAs(request);
  const account = actor?.account ? await accountOf(actor.account) : null;
  const id = account?.id ?? null;
  const here = signInId(secretIn(request.headers.get("Cookie")));
  return {
    account: account && { name: account.name, role: account.role, hasPassword: account.password !== null },
    administers: actor !== null && may(request, "administers"),
    namedHost: partyOf(request.url) !== null,
    passkeys: id === null ? [] : await passkeysOf(id),
    signIns: id === null ? [] : (await signInsOf(id)).map((one) => ({ ...one, here: one.id === here })),
    tokens: await tokensOf(id),
    plans: (await listPlans((plan) => may(request, "reads", plan))).map((plan) => ({
      id: plan.id,
      name: plan.name,
    })),
    mostDays: MAX_DAYS,
  };
}

interface ActionResult {
  form: string;
  error: string;
  said: string;
  /** A new token, shown once. */
  token?: string;
}

const formSchema = z.discriminatedUnion("do", [
  z.object({
    do: z.literal("token"),
    name: textField,
    role: z.enum(roles).catch("none"),
    days: textField,
    plan: textField,
  }),
  z.object({ do: z.literal("revoke"), token: rowField }),
  z.object({ do: z.literal("password"), old: textField, password: textField, again: textField }),
  z.object({ do: z.literal("drop passkey"), passkey: z.string().max(1000) }),
  z.object({ do: z.literal("end sign-in"), "sign-in": z.string().max(64) }),
  z.object({ do: z.literal("end others") }),
]);
type AccountForm = z.output<typeof formSchema>;

export async function action({ request }: Route.ActionArgs) {
  const actor = signedInAs(request);
  // A token makes no tokens, and changes no password.
  if (actor?.via === "token") throw data("Sign in to change an account; a token cannot.", { status: 403 });
  const told = await act(await formOf(request, formSchema), request, actor);
  return data(told, { status: told.error === "" ? 200 : 400 });
}

async function act(form: AccountForm, request: Request, actor: Actor | null): Promise<ActionResult> {
  const id = actor?.account ?? null;
  const secret = secretIn(request.headers.get("Cookie"));
  const say = (said: string, error = ""): ActionResult => ({ form: form.do, said, error });
  if (form.do === "token") {
    const made = await newToken(form, request, id);
    return made.ok
      ? { ...say("Copy the token now. It will not be shown again."), token: made.token }
      : say("", made.error);
  }
  if (form.do === "revoke") {
    await revokeToken(id, form.token);
    return say("Token revoked.");
  }
  if (id === null) throw redirect("/account");
  switch (form.do) {
    case "password": {
      if (form.password !== form.again) return say("", "The two passwords differ.");
      const address = request.headers.get(FROM_HEADER) ?? "";
      // Whoever sits at a browser that was left open must not guess on.
      const tooMany = await attempted(address, `present password ${id}`, true);
      if (tooMany) return say("", tooMany);
      const done = await changePassword(id, form.old, form.password, secret);
      if (!done.ok) return say("", done.error);
      await attemptSucceeded(address, `present password ${id}`, true);
      return say("Password changed. Your other browsers are signed out.");
    }
    case "drop passkey":
      await dropPasskey(id, form.passkey);
      return say("Passkey removed.");
    case "end sign-in":
      await endOneSignIn(id, form["sign-in"]);
      return say("Browser signed out.");
    case "end others":
      await endOtherSignIns(id, secret);
      return say("Your other browsers are signed out.");
  }
}

async function newToken(
  { name, role, days, plan }: Extract<AccountForm, { do: "token" }>,
  request: Request,
  account: string | null,
): Promise<Outcome<{ token: string }>> {
  const refused = (error: string) => ({ ok: false as const, error });
  const label = name.trim();
  if (label === "" || label.length > 60) return refused("Enter a name of at most 60 characters.");
  if (role === "none") return refused("Choose a role.");
  auditDetail({ name: label, role: roleNames[role] });
  const count = Number(days);
  if (!Number.isInteger(count) || count < 1 || count > MAX_DAYS)
    return refused(`Enter 1 to ${MAX_DAYS} days.`);
  const readable = plan === "" ? null : permitIfAllowed(request, plan, "reads");
  if (plan !== "" && !(readable && (await headOf(readable)))) return refused("There is no such plan.");
  return { ok: true, token: await makeToken(account, { name: label, role, plan: readable, days: count }) };
}

export function meta() {
  return [{ title: "Your account · Iron Fork" }];
}

export default function Page({ loaderData, actionData }: Route.ComponentProps) {
  return <AccountView {...loaderData} told={actionData ?? null} />;
}
