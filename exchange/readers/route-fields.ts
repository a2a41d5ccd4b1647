import { formatAddress, parseAddress } from "../../core/address/index.ts";
import type { Collector, RouteFact } from "../facts/index.ts";
import { states } from "./meanings.ts";
import type { ReaderOptions } from "./reader.ts";

/** A route as a table writes it: texts, "" where the table says nothing. */
export interface RouteFields {
  /** In canonical form. */
  readonly to: string;
  readonly via: string;
  readonly out: string;
  readonly vrf: string;
  readonly table: string;
  readonly distance: string;
  readonly metric: string;
  /** Words and codes that may say where the route came from, or how it stands. */
  readonly words: readonly string[];
  readonly active: string;
  /** Whether other lines of the text say that they are not in use, so that this one's silence says that it is. */
  readonly othersInactive?: boolean;
  /** An assumption that the route was read with; null without one. */
  readonly assumption?: string | null;
}

/** The meaning of a route's words: source, active, discard; and the unexplained ones. */
export function readWords(words: readonly string[], { meanings }: ReaderOptions) {
  let source: string | null = null;
  let active: boolean | null = null;
  let discard: RouteFact["discard"] = null;
  const open: string[] = [];
  for (const word of words) {
    const meaning = meanings.of(word);
    if (meaning === null) open.push(word);
    else if (meaning === "inactive") active = false;
    else if (meaning === "active") active = true;
    else if (meaning === "discard") discard = "drop";
    else if (meaning === "reject") discard = "reject";
    else if (!states.has(meaning)) source ??= meaning;
  }
  return { source, active, discard, open };
}

const numberOf = (text: string) => (/^\d+$/.test(text) ? Number(text) : null);

/** Adds a route from a table; words without a meaning become questions. */
export function takeRouteFields(
  fields: RouteFields,
  at: { file: string; line: number; text: string },
  into: Collector,
  options: ReaderOptions,
) {
  const { source, active, discard, open } = readWords(fields.words, options);
  const via = parseAddress(fields.via);
  const told = fields.active.toLowerCase();
  const yes = ["yes", "true", "active", "1"].includes(told);
  const no = ["no", "false", "inactive", "0"].includes(told);
  const fact: RouteFact = {
    to: fields.to,
    // A next hop of zeros is how some tables write that there is none.
    via: via && !isZero(fields.via) ? formatAddress(via) : null,
    out: discard ? null : fields.out || null,
    vrf: fields.vrf || "main",
    table: fields.table || null,
    source,
    distance: numberOf(fields.distance),
    metric: numberOf(fields.metric),
    active: active ?? (yes ? true : no ? false : fields.othersInactive ? true : null),
    discard,
  };
  const fresh = into.route(fact);
  for (const word of open) into.openWords.set(word, (into.openWords.get(word) ?? 0) + 1);
  const what = `a route to ${fact.to}${fact.via ? ` via ${fact.via}` : ""}${fact.out ? ` out ${fact.out}` : ""}`;
  if (!fresh) return into.fate(at, "known", `${what}: already listed`);
  if (source === null && discard === null && open.length > 0) {
    return into.fate(at, "doubtful", `${what}; unknown code ${open.map((word) => `"${word}"`).join(", ")}`);
  }
  if (fields.assumption) return into.fate(at, "doubtful", `${what}; ${fields.assumption}`);
  into.fate(at, "taken", `${what}${source ? `, ${source}` : ""}`);
}

function isZero(text: string): boolean {
  return text === "0.0.0.0" || text === "::";
}
