import { data, redirect } from "react-router";
import { z } from "zod";
import { accountByPassword, hasAccounts } from "../../server/access/accounts.ts";
import { FROM_HEADER } from "../../server/access/actor.ts";
import { attempted, attemptSucceeded } from "../../server/access/limits.ts";
import { partyOf } from "../../server/access/passkeys.ts";
import { providerSettings } from "../../server/access/provider.ts";
import { beginSignIn, isKnownDevice } from "../../server/access/sign-ins.ts";
import { formOf, pathHere, textField } from "../engine/bodies.server.ts";
import { SignInView } from "../features/access/sign-in-view.tsx";
import type { Route } from "./+types/sign-in";

/** Sign-in. With sign-in off it is not needed. */
export async function loader({ request }: Route.LoaderArgs) {
  const provider = providerSettings();
  if (!provider && !(await hasAccounts())) return redirect("/plans");
  const to = pathHere(new URL(request.url).searchParams.get("to") ?? "", request.url);
  return { to, provider: provider?.name ?? null, passkeys: partyOf(request.url) !== null };
}

/** Signs in by name and password. */
export async function action({ request }: Route.ActionArgs) {
  const { name, password, to } = await formOf(
    request,
    z.object({ name: textField, password: textField, to: textField }),
  );
  const address = request.headers.get(FROM_HEADER) ?? "";
  const cookies = request.headers.get("Cookie");
  const known = await isKnownDevice(cookies, name);
  const tooMany = await attempted(address, name, known);
  if (tooMany) return data({ error: tooMany, name }, { status: 429 });
  const account = await accountByPassword(name, password);
  if (!account) return data({ error: "The name or the password is wrong.", name }, { status: 401 });
  await attemptSucceeded(address, name, known);
  const agent = request.headers.get("User-Agent") ?? "";
  return redirect(pathHere(to, request.url), {
    headers: await beginSignIn(account.id, "password", { agent, address, cookies }),
  });
}

export function meta() {
  return [{ title: "Sign in · Iron Fork" }];
}

export default function Page({ loaderData, actionData }: Route.ComponentProps) {
  return <SignInView {...loaderData} told={actionData ?? null} />;
}
