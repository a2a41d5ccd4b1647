import { data, redirect } from "react-router";
import { accountOf, changePassword } from "../../server/access/accounts.ts";
import { type Actor, FROM_HEADER, may, signedInAs } from "../../server/access/actor.ts";
import { isPlanId } from "../../server/access/grants.ts";
import { attempted, attemptSucceeded } from "../../server/access/limits.ts";
import { dropPasskey, partyOf, passkeysOf } from "../../server/access/passkeys.ts";
import { isRole } from "../../server/access/roles.ts";
import {
  endOneSignIn,
  endOtherSignIns,
  secretIn,
  signInId,
  signInsOf,
} from "../../server/access/sign-ins.ts";
import { MOST_DAYS, makeToken, revokeToken, tokensOf } from "../../server/access/tokens.ts";
import { listPlans } from "../../server/plans.ts";
import { badRequest, formBody, rowNumber, textOf } from "../engine/bodies.server.ts";
import { AccountView } from "../features/access/account-view.tsx";
import type { Route } from "./+types/account";

/** One's own account: password, passkeys, where one is signed in, tokens. Alone on one machine: tokens. */
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
    mostDays: MOST_DAYS,
  };
}

interface Told {
  form: string;
  error: string;
  said: string;
  /** A new token, told this once. */
  token?: string;
}

export async function action({ request }: Route.ActionArgs) {
  const form = await formBody(request);
  const doing = textOf(form, "do");
  const actor = signedInAs(request);
  // A token makes no tokens, and changes no password.
  if (actor?.via === "token") throw data("Sign in to change an account; a token cannot.", { status: 403 });
  const told = await act(doing, form, request, actor);
  return data(told, { status: told.error === "" ? 200 : 400 });
}

async function act(doing: string, form: FormData, request: Request, actor: Actor | null): Promise<Told> {
  const id = actor?.account ?? null;
  const secret = secretIn(request.headers.get("Cookie"));
  const say = (said: string, error = ""): Told => ({ form: doing, said, error });
  if (doing === "token") {
    const [name, role, days] = [
      textOf(form, "name").trim(),
      textOf(form, "role"),
      Number(textOf(form, "days")),
    ];
    if (name === "" || name.length > 60) return say("", "Give it a name of at most 60 characters.");
    if (!isRole(role) || role === "none") return say("", "Say what it may do.");
    if (!Number.isInteger(days) || days < 1 || days > MOST_DAYS)
      return say("", `Days are from 1 to ${MOST_DAYS}.`);
    const plan = textOf(form, "plan");
    if (plan !== "" && !(isPlanId(plan) && may(request, "reads", plan)))
      return say("", "There is no such plan.");
    const token = await makeToken(id, { name, role, plan: plan === "" ? null : plan, days });
    return { ...say("Copy the token now. It will not be shown again."), token };
  }
  if (doing === "revoke") {
    await revokeToken(id, rowNumber(form, "token"));
    return say("Token revoked.");
  }
  if (id === null) throw redirect("/account");
  switch (doing) {
    case "password": {
      const fresh = textOf(form, "password");
      if (fresh !== textOf(form, "again")) return say("", "The two are not the same.");
      const address = request.headers.get(FROM_HEADER) ?? "";
      // Whoever sits at a browser that was left open must not guess on.
      const tooMany = await attempted(address, `present password ${id}`, true);
      if (tooMany) return say("", tooMany);
      const done = await changePassword(id, textOf(form, "old"), fresh, secret);
      if (done.ok) await attemptSucceeded(address, `present password ${id}`, true);
      return done.ok ? say("Password changed. Your other browsers are signed out.") : say("", done.error);
    }
    case "drop passkey":
      await dropPasskey(id, textOf(form, "passkey").slice(0, 1000));
      return say("Passkey removed.");
    case "end sign-in":
      await endOneSignIn(id, textOf(form, "sign-in").slice(0, 64));
      return say("Browser signed out.");
    case "end others":
      await endOtherSignIns(id, secret);
      return say("Your other browsers are signed out.");
    default:
      badRequest("This does not say what is to be done.");
  }
}

export function meta() {
  return [{ title: "Your account · Iron Fork" }];
}

export default function Page({ loaderData, actionData }: Route.ComponentProps) {
  return <AccountView {...loaderData} told={actionData ?? null} />;
}
