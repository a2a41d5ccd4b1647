import { data } from "react-router";
import { z } from "zod";
import { isDeeperThan, isWellFormed, LIMITS, malformedText } from "../../core/plan/index.ts";

/** A plan's things stand inside an edit, some levels down. */
const MAX_DEPTH = LIMITS.depth + 8;

/** Ends a request that cannot be read with a sentence. */
export function badRequest(message: string): never {
  throw data(message, { status: 400 });
}

/** The posted JSON; null if it is malformed or contains text that cannot be stored. */
export async function jsonBody(request: Request): Promise<unknown> {
  const body: unknown = await request.json().catch(() => null);
  return isDeeperThan(body, MAX_DEPTH) || malformedText(body) !== null ? null : body;
}

/** A field of a form that names a row of the database. */
export const rowField = z.string().regex(/^[1-9]\d{0,17}$/);
/** A field that names an account. */
export const accountField = z.uuid();
/** A text field that its form validates. */
export const textField = z.string().default("");

/** A posted form, read by its schema. Every form refuses text that cannot be stored and values that no page of this
 * application sends. User errors are left to the form, which shows them beside the field.
 * @param lists fields that may occur several times: they are read as lists */
export async function formOf<S extends z.ZodType>(
  request: Request,
  schema: S,
  lists: readonly string[] = [],
): Promise<z.output<S>> {
  const fields = await formFields(request);
  const read = schema.safeParse(
    Object.fromEntries(
      [...new Set(fields.keys())].map((name) => [
        name,
        lists.includes(name) ? fields.getAll(name) : fields.get(name),
      ]),
    ),
  );
  if (read.success) return read.data;
  const [{ path }] = read.error.issues;
  badRequest(
    `Not saved: the field "${path.join(".") || "do"}" is missing or not valid. Load the page again.`,
  );
}

/** The fields of a posted form as they were typed. */
async function formFields(request: Request): Promise<FormData> {
  let form: FormData;
  try {
    form = await request.formData();
  } catch {
    badRequest("Not saved: the form could not be read. Try again.");
  }
  for (const [name, value] of form)
    if (!isWellFormed(name) || !isWellFormed(typeof value === "string" ? value : value.name))
      badRequest("Not saved: the text holds a character that cannot be saved, such as a zero byte.");
  return form;
}

/** The revision number in an address; null if it is not a possible one. */
export function revisionIn(text: string): number | null {
  return /^[1-9]\d{0,9}$/.test(text) && Number(text) < 2 ** 31 ? Number(text) : null;
}

/** Where to go back to: a path of this server, whatever was asked for; else the list of plans. */
export function pathHere(wanted: string, here: string): string {
  const { origin } = new URL(here);
  // Browsers take a backslash for a slash, so the address is read as they read it.
  if (!wanted.startsWith("/") || !URL.canParse(wanted, origin)) return "/plans";
  const url = new URL(wanted, origin);
  return url.origin === origin ? `${url.pathname}${url.search}${url.hash}` : "/plans";
}

/** A document for the web server to print with Chromium; it is stopped if the client disconnects. */
export function printed(html: string, name: string): Response {
  return new Response(html, {
    headers: { "Content-Type": "text/html; charset=utf-8", "x-iron-fork-print": name },
  });
}
