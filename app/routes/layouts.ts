import { data } from "react-router";
import { z } from "zod";
import { type Layout, layoutSchema, readLayout, UnreadableLayout } from "../../exchange/layout.ts";
import { permit } from "../../server/access/permit.ts";
import { forgetLayout, keepLayout, keptLayouts } from "../../server/layouts.ts";
import { visitorOf } from "../../server/session.ts";
import { formOf, rowField, textField } from "../engine/bodies.server.ts";
import { notFound } from "../engine/page.server.ts";
import type { Route } from "./+types/layouts";

export interface LayoutNotice {
  readonly said: string;
  readonly error: string;
}

const LARGEST = 1024 * 1024;

const formSchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("forget"), id: rowField }),
  z.object({ do: z.literal("import"), file: z.instanceof(File) }),
  z.object({ do: z.literal("keep"), name: textField, words: textField, shapes: textField }),
]);

/** Keeps, takes in and forgets layouts of text tables. */
export async function action({ request, params }: Route.ActionArgs) {
  const plan = permit(request, params.plan, "edits");
  const visitor = await visitorOf(request);
  const headers = visitor.setCookie ? { "Set-Cookie": visitor.setCookie } : undefined;
  const say = (said: string, error = "") => data({ said, error }, { status: error ? 400 : 200, headers });
  const form = await formOf(request, formSchema);
  if (form.do === "forget") {
    await forgetLayout(plan, form.id);
    return say("Layout removed.");
  }
  const read = form.do === "import" ? await imported(form.file) : taught(form);
  if (typeof read === "string") return say("", read);
  await keepLayout(plan, read.name, read, visitor.name);
  return say(`Layout ${read.name} saved.`);
}

async function imported(file: File): Promise<Layout | string> {
  if (file.size === 0) return "choose a layout file";
  if (file.size > LARGEST) return "the file is too large for a layout";
  try {
    return readLayout(await file.text(), file.name.slice(0, 200));
  } catch (error) {
    if (error instanceof UnreadableLayout) return error.message;
    throw error;
  }
}

function taught(form: { name: string; words: string; shapes: string }): Layout | string {
  const parsed = (name: "words" | "shapes"): unknown => {
    try {
      return JSON.parse(form[name]);
    } catch {
      return null;
    }
  };
  const name = form.name.trim();
  if (name === "") return "enter a name for the layout";
  const document = { ironForkLayout: 1, name, words: parsed("words"), shapes: parsed("shapes") };
  const read = layoutSchema.safeParse(document);
  return read.success ? read.data : "this is not a valid layout";
}

/** A layout's document. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const plan = permit(request, params.plan, "reads");
  const id = new URL(request.url).searchParams.get("id");
  const found = (await keptLayouts(plan)).find((one) => one.id === id);
  if (!found) notFound("There is no such layout; it may have been removed.");
  return new Response(`${JSON.stringify(found.document, null, 2)}\n`, {
    headers: {
      "Content-Type": "application/json",
      "Content-Disposition": `attachment; filename="layout-${found.id}.json"`,
    },
  });
}
