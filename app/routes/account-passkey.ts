import { data } from "react-router";
import { z } from "zod";
import { accountOf } from "../../server/access/accounts.ts";
import { signedInAs } from "../../server/access/actor.ts";
import { keepPasskey, partyOf, registrationOptions } from "../../server/access/passkeys.ts";
import { jsonBody } from "../engine/bodies.server.ts";
import type { Route } from "./+types/account-passkey";

const bodySchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("ask") }),
  z.object({
    do: z.literal("answer"),
    name: z.string().trim().min(1).max(60),
    response: z.looseObject({ response: z.looseObject({ clientDataJSON: z.string() }) }),
  }),
]);

/** Adds a passkey to one's own account: gives the challenge, then takes what the browser made. */
export async function action({ request }: Route.ActionArgs) {
  const party = partyOf(request.url);
  const actor = signedInAs(request);
  const account = actor?.via === "sign-in" && actor.account ? await accountOf(actor.account) : null;
  const refuse = (error: string) => data({ error }, { status: 400 });
  if (!account) return data({ error: "Sign in first." }, { status: 401 });
  if (!party) return refuse("Passkeys need a host name, such as localhost.");
  const body = bodySchema.safeParse(await jsonBody(request));
  if (!body.success) return refuse("The request is not valid.");
  if (body.data.do === "ask")
    return data({ options: await registrationOptions(party, account.id, account.name) });
  const why = await keepPasskey(party, account.id, body.data.response as never, body.data.name).catch(
    () => "This passkey is not valid here.",
  );
  return why === null ? data({ ok: true }) : refuse(why);
}

/** There is nothing to see at this address. */
export function loader() {
  throw data("Passkeys are added on the account page.", { status: 405 });
}
