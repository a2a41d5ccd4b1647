import { data, redirect } from "react-router";
import { providerAddress, providerSettings } from "../../server/access/provider.ts";
import { pathHere } from "../engine/bodies.server.ts";
import { backOf } from "../engine/provider-back.server.ts";
import type { Route } from "./+types/sign-in-provider";

/** Sends a browser to the sign-in provider. */
export async function loader({ request }: Route.LoaderArgs) {
  const settings = providerSettings();
  if (!settings) throw data("No sign-in provider is set up here.", { status: 404 });
  const to = pathHere(new URL(request.url).searchParams.get("to") ?? "", request.url);
  const begun = await providerAddress(settings, backOf(request.url), to).catch(() => null);
  if (!begun) throw data("The sign-in provider does not respond. Try again in a moment.", { status: 503 });
  return redirect(begun.address.href, { headers: { "Set-Cookie": begun.cookie } });
}
