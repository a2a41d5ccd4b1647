import { lengthOfMask, parseAddress, parsePrefix } from "../address/index.ts";
import { errorsOfIssues, type StaticRoute, staticRouteSchema } from "../plan/index.ts";

/**
 * One line that writes a route, in the terms of the plan document:
 *
 *   tern-edge, gull-edge: 172.20.0.0/16 via 172.20.0.2 out core distance 20 watch far-a note by radio
 *
 * Devices and a colon come first, except on a device's own page; then the destination ("default" for the next hop's
 * whole family); then clauses in any order. `note` is last because it takes the rest of the line.
 */

/** Clauses with a value, and the field of the route that each fills. */
export const clauses = {
  via: "via",
  "via-from": "viaFrom",
  out: "out",
  distance: "distance",
  metric: "metric",
  weight: "weight",
  watch: "watch",
  vrf: "vrf",
  resolve: "resolve",
  "to-vrf": "toVrf",
} as const;

/** Words that stand alone. */
export const flags = ["discard", "reject", "on-link", "off"] as const;

/** The field that each of them fills, and with what. */
const flagFields: Readonly<Record<string, readonly [string, string]>> = {
  discard: ["discard", "drop"],
  reject: ["discard", "reject"],
  "on-link": ["onLink", "true"],
  off: ["enabled", "false"],
};

export interface Token {
  readonly text: string;
  /** Position of its first character in the line. */
  readonly at: number;
}

/** An error in one part of the line; `field` is the field of the route, "devices" or "line". */
export interface LineError {
  readonly field: string;
  readonly at: number;
  readonly message: string;
  /** Whether the line itself is written wrongly; else a value is, which its field can tell as well. */
  readonly ofLine: boolean;
}

export interface LineReading {
  /** The devices named, in order; empty where the line names none. */
  readonly devices: readonly Token[];
  /** The fields as they were typed. */
  readonly fields: Readonly<Record<string, string>>;
  /** The route, where the line makes one. */
  readonly route: StaticRoute | null;
  readonly errors: readonly LineError[];
}

export function tokensOf(text: string, from = 0): Token[] {
  return [...text.slice(from).matchAll(/\S+/g)].map((found) => ({ text: found[0], at: from + found.index }));
}

/** Where the devices end and the route begins: after "…: ", a colon that no address holds. */
export function deviceSpan(text: string): number {
  // The first colon with nothing or a space behind it; before it stand names alone.
  const at = text.search(/:(?:\s|$)/);
  const names = at < 0 ? "" : text.slice(0, at).trim();
  const sound = names
    .split(",")
    .every((name, n) => (n > 0 && name.trim() === "") || /^[a-z0-9-]+$/.test(name.trim()));
  return sound && names !== "" ? at + 1 : 0;
}

/** Reads a line. Whatever is typed is kept in `fields`, sound or not. */
export function readRouteLine(text: string): LineReading {
  const span = deviceSpan(text);
  const devices = tokensOf(text.slice(0, Math.max(0, span - 1)).replaceAll(",", " "));
  const fields: Record<string, string> = {};
  const at: Record<string, number> = {};
  const errors: LineError[] = [];
  const put = (field: string, value: string, where: number) => {
    if (fields[field] !== undefined) {
      errors.push({ field, at: where, message: `"${field}" appears twice in the line`, ofLine: true });
      return;
    }
    fields[field] = value;
    at[field] = where;
  };
  const tokens = inOwnTerms(tokensOf(text, span));
  let n = 0;
  if (tokens[0] && !isClause(tokens[0].text)) put("to", tokens[n].text, tokens[n++].at);
  while (n < tokens.length) {
    const word = tokens[n];
    if (word.text === "note") {
      const rest = tokens[n + 1];
      if (rest) put("note", text.slice(rest.at).trim(), rest.at);
      break;
    }
    if (word.text in clauses) {
      const value = tokens[n + 1];
      if (!value || isClause(value.text)) {
        const expected = hints[word.text as keyof typeof hints];
        errors.push({
          field: clauses[word.text as keyof typeof clauses],
          at: word.at,
          message: `expected ${expected} after "${word.text}"`,
          ofLine: true,
        });
        n++;
        continue;
      }
      put(clauses[word.text as keyof typeof clauses], value.text, value.at);
      n += 2;
      continue;
    }
    const flag = flagFields[word.text];
    if (flag) put(flag[0], flag[1], word.at);
    else {
      errors.push({ field: "line", at: word.at, message: helpFor(word.text), ofLine: true });
    }
    n++;
  }
  const outcome = routeOfFields(fields);
  if (!outcome.ok && (text.slice(span).trim() !== "" || span > 0)) {
    for (const { field, message } of outcome.errors) {
      if (!errors.some((error) => error.field === field))
        errors.push({ field, at: at[field] ?? span, message, ofLine: field === "line" });
    }
  }
  return { devices, fields, route: outcome.ok && errors.length === 0 ? outcome.route : null, errors };
}

/** Words of other notations and ours for them. */
const synonyms: Readonly<Record<string, string>> = {
  gateway: "via",
  gw: "via",
  "next-hop": "via",
  nexthop: "via",
  through: "via",
  interface: "out",
  dev: "out",
  port: "out",
  preference: "distance",
  cost: "metric",
  track: "watch",
  description: "note",
  null: "discard",
  null0: "discard",
  blackhole: "discard",
  drop: "discard",
};
const LEADING = /^(?:ip|ipv6|route|add|static|-net|-host)$/i;

/**
 * The tokens of a line in the terms of this notation. Accepted are also a command's words in front of the destination, a
 * dotted mask behind it, a next hop without "via", a distance behind the next hop, and the words of `synonyms`.
 */
function inOwnTerms(given: readonly Token[]): Token[] {
  const tokens: Token[] = [];
  let i = 0;
  while (i < given.length - 1 && LEADING.test(given[i].text)) i++;
  for (; i < given.length; i++) {
    const { text, at } = given[i];
    const own = Object.hasOwn(synonyms, text.toLowerCase()) ? synonyms[text.toLowerCase()] : text;
    const before = tokens.at(-1)?.text ?? "";
    if (own === "note") return [...tokens, { text: own, at }, ...given.slice(i + 1)];
    if (tokens.length === 0) {
      const key = /^(?:mask|netmask)$/i.test(given[i + 1]?.text ?? "") ? 2 : 1;
      const length = parseAddress(text)?.family === 4 ? lengthOfMask(given[i + key]?.text ?? "") : null;
      tokens.push({ text: length === null ? text : `${text}/${length}`, at });
      if (length !== null) i += key;
    } else if (before in clauses && tokens.length > 1) tokens.push({ text, at });
    else if (parseAddress(text) && !tokens.some((token) => token.text === "via"))
      tokens.push({ text: "via", at }, { text, at });
    else if (/^\d{1,3}$/.test(text) && tokens.at(-2)?.text === "via")
      tokens.push({ text: "distance", at }, { text, at });
    else tokens.push({ text: own, at });
  }
  return tokens;
}

/** Explains a word that a route line does not know. */
function helpFor(word: string): string {
  if (parseAddress(word)) return `a second next hop, ${word}: write a line for each next hop`;
  return `"${word}" is not a keyword of a route line; keywords are ${[...Object.keys(clauses), ...flags, "note"].join(", ")}`;
}

function isClause(text: string): boolean {
  return text in clauses || text === "note" || (flags as readonly string[]).includes(text);
}

const hints: Record<keyof typeof clauses, string> = {
  via: "the next hop, an address",
  "via-from": "an interface whose gateway is assigned automatically",
  out: "an interface",
  distance: "a number",
  metric: "a number",
  weight: "a number",
  watch: "a watch of the device",
  vrf: "a VRF",
  resolve: '"connected" or "any"',
  "to-vrf": "a VRF",
};

export type FieldsOutcome =
  | { ok: true; route: StaticRoute }
  | { ok: false; errors: { field: string; message: string }[] };

/** Builds a route from form fields; `kept` holds values of the old route that the form does not show. */
export function routeOfFields(
  fields: Readonly<Record<string, string>>,
  kept: Readonly<Record<string, unknown>> = {},
): FieldsOutcome {
  const errors: { field: string; message: string }[] = [];
  const values: Record<string, unknown> = { ...kept };
  for (const [field, typed] of Object.entries(fields)) {
    const text = typed.trim();
    if (text === "") delete values[field];
    else if (field === "to") values.to = destinationOf(text, fields.via);
    else if (["distance", "metric", "weight"].includes(field)) {
      if (/^\d+$/.test(text)) values[field] = Number(text);
      else errors.push({ field, message: `"${text}" is not a whole number` });
    } else if (field === "onLink") values.onLink = text === "true";
    else if (field === "enabled") values.enabled = text === "true";
    else values[field] = text;
  }
  if ((fields.to ?? "").trim() === "" && values.to === undefined) {
    errors.push({
      field: "to",
      message: "destination missing: enter a prefix such as 172.20.32.0/20, or default",
    });
  }
  const parsed = staticRouteSchema.safeParse(values, { reportInput: true });
  if (parsed.success && errors.length === 0) return { ok: true, route: parsed.data };
  for (const error of parsed.success ? [] : errorsOfIssues(parsed.error.issues)) {
    const field = error.path || "line";
    if (!errors.some((known) => known.field === field)) errors.push({ field, message: error.message });
  }
  return { ok: false, errors };
}

/** Expands "default" and a bare address to prefixes. */
function destinationOf(text: string, via: string | undefined): string {
  if (text === "default") return parseAddress(via?.trim() ?? "")?.family === 6 ? "::/0" : "0.0.0.0/0";
  if (parsePrefix(text)) return text;
  const address = parseAddress(text);
  return address ? `${text}/${address.family === 4 ? 32 : 128}` : text;
}

/** A route as the line that writes it; reading it again gives the same route. */
export function formatRouteLine(route: StaticRoute, devices: readonly string[] = []): string {
  const fields = Object.entries(route).map(([field, value]) => [
    field,
    String(value).replaceAll(/\s+/g, " "),
  ]);
  return lineOfFields(Object.fromEntries(fields), devices);
}

/** The line that fields make, whether they make a route or not. */
export function lineOfFields(
  fields: Readonly<Record<string, string>>,
  devices: readonly string[] = [],
): string {
  const parts = devices.length ? [`${devices.join(", ")}:`] : [];
  const text = (field: string) => (fields[field] ?? "").trim();
  if (text("to")) parts.push(text("to"));
  for (const [word, field] of Object.entries(clauses)) if (text(field)) parts.push(word, text(field));
  if (text("discard")) parts.push(text("discard") === "reject" ? "reject" : "discard");
  if (text("onLink") === "true") parts.push("on-link");
  if (text("enabled") === "false") parts.push("off");
  if (text("note")) parts.push("note", text("note"));
  return parts.join(" ");
}
