import { redirect } from "react-router";
import { endSignIn, SIGNED_OUT, secretIn } from "../../server/access/sign-ins.ts";
import type { Route } from "./+types/sign-out";

/** Signs this browser out. */
export async function action({ request }: Route.ActionArgs) {
  const secret = secretIn(request.headers.get("Cookie"));
  if (secret) await endSignIn(secret);
  return redirect("/sign-in", { headers: { "Set-Cookie": SIGNED_OUT, "Clear-Site-Data": '"cache"' } });
}

/** There is nothing to see at this address. */
export function loader() {
  return redirect("/plans");
}
