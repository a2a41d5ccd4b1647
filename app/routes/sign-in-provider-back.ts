import { data, redirect } from "react-router";
import { FROM_HEADER } from "../../server/access/actor.ts";
import { fromProvider, providerSettings } from "../../server/access/provider.ts";
import { beginSignIn } from "../../server/access/sign-ins.ts";
import { pathHere } from "../engine/bodies.server.ts";
import { backOf } from "../engine/provider-back.server.ts";
import type { Route } from "./+types/sign-in-provider-back";

/** Takes in whom the sign-in provider sends back. */
export async function loader({ request }: Route.LoaderArgs) {
  const settings = providerSettings();
  if (!settings) throw data("No sign-in provider is set up here.", { status: 404 });
  const cookies = request.headers.get("Cookie");
  const came = await fromProvider(settings, new URL(request.url), backOf(request.url), cookies).catch(() => ({
    ok: false as const,
    error: "The provider's answer is not valid. Sign in again.",
  }));
  if (!came.ok) throw data(`Not signed in. ${came.error}`, { status: 401 });
  const from = {
    agent: request.headers.get("User-Agent") ?? "",
    address: request.headers.get(FROM_HEADER) ?? "",
    cookies,
  };
  return redirect(pathHere(came.to, request.url), {
    headers: await beginSignIn(came.account, "provider", from),
  });
}
