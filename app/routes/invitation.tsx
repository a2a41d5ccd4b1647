import { data, redirect } from "react-router";
import { z } from "zod";
import { invitedTo, takeInvitation } from "../../server/access/accounts.ts";
import { FROM_HEADER } from "../../server/access/actor.ts";
import { attempted } from "../../server/access/limits.ts";
import { beginSignIn } from "../../server/access/sign-ins.ts";
import { formOf, textField } from "../engine/bodies.server.ts";
import { InvitationView } from "../features/access/invitation-view.tsx";
import type { Route } from "./+types/invitation";

/** A one-time link: whoever has it gives its account a password. */
export async function loader({ params }: Route.LoaderArgs) {
  const invited = await invitedTo(params.secret);
  if (!invited) throw data("This link has been used or has expired. Ask for another one.", { status: 404 });
  return { name: invited.name };
}

export async function action({ request, params }: Route.ActionArgs) {
  const form = await formOf(request, z.object({ password: textField, again: textField }));
  const address = request.headers.get(FROM_HEADER) ?? "";
  const refuse = (error: string, status = 400) => data({ error }, { status });
  const tooMany = await attempted(address, `invitation ${params.secret.slice(0, 50)}`, false);
  if (tooMany) return refuse(tooMany, 429);
  const { password } = form;
  if (password !== form.again) return refuse("The two passwords differ.");
  const taken = await takeInvitation(params.secret, password);
  if (!taken.ok) return refuse(taken.error);
  const agent = request.headers.get("User-Agent") ?? "";
  return redirect("/account", {
    headers: await beginSignIn(taken.account, "invitation", {
      agent,
      address,
      cookies: request.headers.get("Cookie"),
    }),
  });
}

export function meta() {
  return [{ title: "Your account · Iron Fork" }, { name: "referrer", content: "no-referrer" }];
}

export default function Page({ loaderData, actionData }: Route.ComponentProps) {
  return <InvitationView name={loaderData.name} error={actionData?.error ?? ""} />;
}
