import { data } from "react-router";
import { z } from "zod";
import { FROM_HEADER } from "../../server/access/actor.ts";
import { attempted } from "../../server/access/limits.ts";
import { accountByPasskey, partyOf, signInOptions } from "../../server/access/passkeys.ts";
import { beginSignIn } from "../../server/access/sign-ins.ts";
import { jsonBody } from "../engine/bodies.server.ts";
import type { Route } from "./+types/sign-in-passkey";

const bodySchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("ask") }),
  z.object({ do: z.literal("answer"), response: z.looseObject({ id: z.string() }) }),
]);

/** Signs in by a passkey: gives the challenge, then takes its answer. */
export async function action({ request }: Route.ActionArgs) {
  const party = partyOf(request.url);
  const body = bodySchema.safeParse(await jsonBody(request));
  const refuse = (error: string, status = 401) => data({ error }, { status });
  if (!body.success) return refuse("The request is not valid.", 400);
  if (!party) return refuse("Passkeys need a host name.", 400);
  if (body.data.do === "ask") return data({ options: await signInOptions(party) });
  const address = request.headers.get(FROM_HEADER) ?? "";
  const tooMany = await attempted(address, `passkey ${body.data.response.id}`, false);
  if (tooMany) return refuse(tooMany, 429);
  const account = await accountByPasskey(party, body.data.response as never).catch(() => null);
  if (!account) return refuse("This passkey is unknown. Sign in another way.");
  const agent = request.headers.get("User-Agent") ?? "";
  return data(
    { ok: true },
    {
      headers: await beginSignIn(account, "passkey", {
        agent,
        address,
        cookies: request.headers.get("Cookie"),
      }),
    },
  );
}

/** There is nothing to see at this address. */
export function loader() {
  throw data("Passkeys are used on the sign-in page.", { status: 405 });
}
