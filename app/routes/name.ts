import { data, redirect } from "react-router";
import { renameVisitor } from "../../server/session.ts";
import type { Route } from "./+types/name";

export async function action({ request }: Route.ActionArgs) {
  const form = await request.formData();
  const name = String(form.get("name") ?? "").trim();
  if (name === "" || name.length > 60)
    return data({ error: "A name has 1 to 60 characters." }, { status: 400 });
  const back = String(form.get("back") ?? "/plans");
  return redirect(back.startsWith("/") && !back.startsWith("//") ? back : "/plans", {
    headers: { "Set-Cookie": await renameVisitor(request, name) },
  });
}
