import { formatPrefix, parseAddress, parsePrefixOrHost } from "../../../core/address/index.ts";
import type { Collector, DestinationFact, MarkFact, TranslationFact } from "../../facts/index.ts";
import type { Action, Condition, Field, NftRule, PlacedRule } from "./rule.ts";

/** What a rule means in a plan. */
type Meaning =
  | { readonly list: "translations"; readonly facts: readonly TranslationFact[] }
  | { readonly list: "destinations"; readonly facts: readonly DestinationFact[] }
  | { readonly list: "marks"; readonly facts: readonly MarkFact[] };

const UNSAYABLE = "only some packets by a condition that a plan cannot express";

/** The values that the conditions of a rule give to each field. */
class Conditions {
  private readonly values = new Map<Field, readonly string[]>();

  /** null where a condition is about another field than those known, or two of them differ about one. */
  static of(conditions: readonly Condition[], known: readonly Field[]): Conditions | null {
    const read = new Conditions();
    for (const { field, values } of conditions) {
      const before = read.values.get(field) ?? values;
      if (!known.includes(field) || before.join() !== values.join()) return null;
      read.values.set(field, values);
    }
    return read;
  }

  list(field: Field): readonly string[] {
    return this.values.get(field) ?? [];
  }

  /** Prefixes of the sources or destinations; null if one is invalid. */
  prefixes(field: "from" | "to"): string[] | null {
    const read = this.list(field).map((text) => parsePrefixOrHost(text));
    return read.every((prefix) => prefix !== null) ? read.map(formatPrefix) : null;
  }

  /** The protocol and port, in a plan's words; null where a plan has none for them. */
  get service(): { protocol?: "icmp" | "tcp" | "udp"; port?: number | string } | null {
    const [protocols, ports] = [this.list("protocol"), this.list("port")];
    if (protocols.length > 1 || ports.length > 1) return null;
    if (protocols.length === 0) return ports.length === 0 ? {} : null;
    const protocol = { icmp: "icmp", "ipv6-icmp": "icmp", icmpv6: "icmp", tcp: "tcp", udp: "udp" }[
      protocols[0]
    ] as "icmp" | "tcp" | "udp" | undefined;
    if (!protocol || !ports.every((port) => /^\d{1,5}(-\d{1,5})?$/.test(port))) return null;
    const port = ports.map((text) => (text.includes("-") ? text : Number(text)));
    return { protocol, ...(port.length > 0 ? { port: port[0] } : {}) };
  }
}

/** What a rule means in a plan; a sentence where a plan cannot say it, null where it neither translates nor marks. */
function meaningOf({ conditions, action, ends }: NftRule): Meaning | string | null {
  switch (action?.kind) {
    case "source":
      return translationOf(conditions, action.to);
    case "destination":
      return destinationOf(conditions, action);
    case "mark":
      return ends ? "a mark, but its rule also ends the chain" : markOf(conditions, action.set);
    default:
      return null;
  }
}

function translationOf(conditions: readonly Condition[], to: string | null): Meaning | string {
  const read = Conditions.of(conditions, ["out", "from", "family"]);
  if (!read) return `a translation, but it translates ${UNSAYABLE}`;
  const from = read.prefixes("from");
  if (!from) return "a translation, but its sources cannot be read";
  if (to === null) return "a translation, but it translates to more than one address";
  const out = read.list("out");
  if (out.length === 0) return "a translation, but it has no outgoing interface";
  return { list: "translations", facts: out.map((name) => ({ out: name, from, to })) };
}

function destinationOf(
  conditions: readonly Condition[],
  { to: via, port: viaPort }: Extract<Action, { kind: "destination" }>,
): Meaning | string {
  const read = Conditions.of(conditions, ["in", "to", "protocol", "port", "family"]);
  const service = read?.service;
  if (!read || !service || typeof service.port === "string")
    return `a destination translation, but it translates ${UNSAYABLE}`;
  const [ports, to] = [read.list("in"), read.list("to")];
  if (ports.length === 0) return "a destination translation, but it has no incoming interface";
  if (to.length !== 1 || !parseAddress(to[0]))
    return "a destination translation, but it has no single destination address";
  if (via === null) return "a destination translation, but it translates to more than one address";
  const { protocol, port } = service;
  const fact = {
    ...{ in: [...ports], to: to[0] },
    ...(protocol ? { protocol } : {}),
    ...(port === undefined ? {} : { port }),
    ...{ via, ...(viaPort === undefined || viaPort === port ? {} : { viaPort }) },
  };
  return { list: "destinations", facts: [fact] };
}

/** Rule 6.10. A rule of one family alone that names no prefix says all of that family. */
function markOf(conditions: readonly Condition[], set: number | null): Meaning | string {
  const read = Conditions.of(conditions, ["in", "from", "to", "protocol", "port", "family", "direction"]);
  const service = read?.service;
  const [from, to] = [read?.prefixes("from"), read?.prefixes("to")];
  if (!read || !service || !from || !to || read.list("direction").some((value) => value !== "original"))
    return `a mark, but it marks ${UNSAYABLE}`;
  if (set === null) return "a mark, but it is no number";
  const all = read.list("family").map((family) => (family === "ipv6" ? "::/0" : "0.0.0.0/0"));
  const sources = from.length + to.length > 0 ? from : all;
  const fact = { set, in: [...read.list("in")], from: sources, to, ...service };
  return { list: "marks", facts: [fact] };
}

/** Takes over what the rules of a file mean, and says what became of each. */
export function takeRules(rules: readonly PlacedRule[], into: Collector) {
  const meanings = rules.map((rule) => ({ ...rule, meaning: meaningOf(rule) }));
  const markedByItself = new Set(
    meanings.flatMap(({ hook, meaning }) =>
      hook === "output" && meaning && typeof meaning === "object" ? [JSON.stringify(meaning.facts)] : [],
    ),
  );
  for (const { at, hook, ends, meaning } of meanings) {
    if (meaning === null) {
      const detail = "a filter rule: add it as policy on the device's page";
      into.fate(at, ends ? "doubtful" : "known", ends ? detail : "neither filters, translates nor marks");
    } else if (typeof meaning === "string") into.fate(at, "doubtful", meaning);
    else if (meaning.list === "marks" && hook !== null)
      takeMark(meaning.facts[0], { at, hook }, markedByItself, into);
    else takeFacts(meaning, at, into);
  }
}

function takeFacts({ list, facts }: Meaning, at: PlacedRule["at"], into: Collector) {
  const fresh = facts.map((fact) => into.add(list, fact as never));
  into.fate(at, fresh.some(Boolean) ? "taken" : "known", facts.map(detailOf).join("; "));
}

function detailOf(fact: TranslationFact | DestinationFact | MarkFact): string {
  if ("set" in fact) return `mark ${fact.set}`;
  if ("out" in fact) return `source translation on ${fact.out} to ${fact.to}`;
  return `destination translation of ${fact.to} on ${fact.in.join(", ")} to ${fact.via}`;
}

/**
 * A plan's mark without interfaces is set for what arrives and for what the device itself sends: one rule in the chain of either
 * hook, of which that for arriving packets is taken.
 */
function takeMark(
  fact: MarkFact,
  { at, hook }: Pick<PlacedRule, "at"> & { hook: string },
  markedByItself: ReadonlySet<string>,
  into: Collector,
) {
  const isOwn = markedByItself.has(JSON.stringify([fact]));
  if (hook === "prerouting" && (fact.in.length > 0 || isOwn))
    return takeFacts({ list: "marks", facts: [fact] }, at, into);
  const arrives = "it marks only packets that arrive, and a plan's mark without interfaces all of them";
  const sent = "it marks only packets that the device itself sends";
  if (hook === "output" && into.knows("marks", fact)) into.fate(at, "known", detailOf(fact));
  else if (hook === "prerouting" || hook === "output")
    into.fate(at, "doubtful", `a mark, but ${hook === "output" ? sent : arrives}`);
  else into.fate(at, "doubtful", "a mark, but it is set after the route is chosen");
}
