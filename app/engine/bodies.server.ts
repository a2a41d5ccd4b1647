import { data } from "react-router";
import { isDeeperThan, LIMITS, malformedText } from "../../core/plan/index.ts";

/** A plan's things stand inside an edit, some levels down. */
const MAX_DEPTH = LIMITS.depth + 8;

/** Ends a request that cannot be read with a sentence. */
export function badRequest(message: string): never {
  throw data(message, { status: 400 });
}

/** What was posted as JSON; null where it is none, or holds text that cannot be kept. */
export async function jsonBody(request: Request): Promise<unknown> {
  const body: unknown = await request.json().catch(() => null);
  return isDeeperThan(body, MAX_DEPTH) || malformedText(body) !== null ? null : body;
}

/** A posted form; a sentence where it is none. */
export async function formBody(request: Request): Promise<FormData> {
  try {
    return await request.formData();
  } catch {
    badRequest(
      "This form cannot be read: it broke off, or is not what its heading says. Nothing was changed.",
    );
  }
}

/** A text field of a form, as it was typed; files count as none. */
export function textOf(form: FormData, name: string): string {
  const value = form.get(name);
  return typeof value === "string" ? value : "";
}

/** The number of a row in a field of a form; "0", which no row has, where it is none that could be. */
export function rowNumber(form: FormData, name: string): string {
  const text = textOf(form, name);
  return /^[1-9]\d{0,17}$/.test(text) ? text : "0";
}

/** The number of a revision in an address; null where it is none that could be. */
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

/** A document that the web server prints: Chromium runs there, where it ends when nobody waits any more. */
export function printed(html: string, name: string): Response {
  return new Response(html, {
    headers: { "Content-Type": "text/html; charset=utf-8", "x-iron-fork-print": name },
  });
}
