import { redirect } from "react-router";
import { z } from "zod";
import { isShared } from "../../server/access/actor.ts";
import { renameVisitor } from "../../server/session.ts";
import { badRequest, formOf, pathHere, textField } from "../engine/bodies.server.ts";
import { forgetHeads } from "../plan/head.ts";
import type { Route } from "./+types/name";

export async function action({ request }: Route.ActionArgs) {
  // Where there are accounts, a name is the account's.
  if (isShared(request)) return redirect("/account");
  const form = await formOf(request, z.object({ name: textField, back: textField }));
  const name = form.name.trim();
  if (name === "" || name.length > 60) badRequest("A name has 1 to 60 characters.");
  return redirect(pathHere(form.back, request.url), {
    headers: { "Set-Cookie": await renameVisitor(request, name) },
  });
}

/** Pages tell the new name at once. */
export async function clientAction({ serverAction }: Route.ClientActionArgs) {
  try {
    return await serverAction();
  } finally {
    forgetHeads();
  }
}

/** There is nothing to see at this address. */
export function loader() {
  return redirect("/plans");
}
