import { redirect } from "react-router";
import { isWellFormed } from "../../core/plan/index.ts";
import { isShared } from "../../server/access/actor.ts";
import { renameVisitor } from "../../server/session.ts";
import { badRequest, formBody, pathHere, textOf } from "../engine/bodies.server.ts";
import { forgetKnown } from "../plan/known.ts";
import type { Route } from "./+types/name";

export async function action({ request }: Route.ActionArgs) {
  // Where there are accounts, a name is the account's.
  if (isShared(request)) return redirect("/account");
  const form = await formBody(request);
  const name = textOf(form, "name").trim();
  if (name === "" || name.length > 60 || !isWellFormed(name)) badRequest("A name has 1 to 60 characters.");
  return redirect(pathHere(textOf(form, "back"), request.url), {
    headers: { "Set-Cookie": await renameVisitor(request, name) },
  });
}

/** Pages tell the new name at once. */
export async function clientAction({ serverAction }: Route.ClientActionArgs) {
  try {
    return await serverAction();
  } finally {
    forgetKnown();
  }
}

/** There is nothing to see at this address. */
export function loader() {
  return redirect("/plans");
}
