import { z } from "zod";
import { formatPrefix, parseAddress, parsePrefixOrHost } from "../../core/address/index.ts";
import type { Collector, DestinationFact, MarkFact, TranslationFact } from "../facts/index.ts";
import { LocatedJson } from "./located.ts";
import { firstLines, linesOf, type Reader } from "./reader.ts";

/** What a condition of a rule looks at; "other" is what a plan has no field for. */
type Field = "in" | "out" | "from" | "to" | "protocol" | "port" | "family" | "direction" | "other";

interface Condition {
  readonly field: Field;
  readonly values: readonly string[];
}

/** What a rule does with a packet that meets its conditions, as far as a plan has a word for it. */
type Action =
  | { readonly kind: "source"; readonly to: string | null }
  | { readonly kind: "destination"; readonly to: string | null; readonly port?: number }
  | { readonly kind: "mark"; readonly set: number | null };

/** A rule of nftables, read from its text or its JSON. */
interface NftRule {
  readonly conditions: Condition[];
  action: Action | null;
  /** It accepts, drops or leads elsewhere. */
  ends: boolean;
}

interface PlacedRule extends NftRule {
  readonly at: { file: string; line: number; text: string };
  /** The hook of its chain; null where the text does not say. */
  readonly hook: string | null;
}

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

  /** Prefixes of the sources or destinations; null where one is none. */
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
function take(rules: readonly PlacedRule[], into: Collector) {
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

const chainSchema = z.looseObject({
  chain: z.looseObject({ table: z.string(), name: z.string(), hook: z.string().optional() }),
});
const ruleSchema = z.looseObject({
  rule: z.looseObject({ table: z.string(), chain: z.string(), expr: z.array(z.looseObject({})).default([]) }),
});
const matchSchema = z.looseObject({ op: z.string(), left: z.looseObject({}), right: z.unknown() });
const keySchema = z.looseObject({ key: z.string() });
const payloadSchema = z.looseObject({ protocol: z.string(), field: z.string() });

const VERDICTS: ReadonlySet<string> = new Set([
  "accept",
  "drop",
  "reject",
  "jump",
  "goto",
  "return",
  "queue",
]);

/** The fields of a plan, by the words with which both forms of nftables name them. */
const fieldOfMeta: Record<string, Field> = {
  iifname: "in",
  iif: "in",
  oifname: "out",
  oif: "out",
  nfproto: "family",
  l4proto: "protocol",
};
const fieldOfPayload: Record<string, Field> = {
  saddr: "from",
  daddr: "to",
  dport: "port",
  protocol: "protocol",
  nexthdr: "protocol",
};

/** Of a payload field the conditions that it states: a port states its protocol too. */
function payloadConditions(protocol: string, name: string, values: readonly string[]): Condition[] {
  const field = fieldOfPayload[name] ?? "other";
  const isAddress = field === "from" || field === "to";
  if (isAddress && protocol !== "ip" && protocol !== "ip6") return [{ field: "other", values }];
  const service: Condition[] = field === "port" ? [{ field: "protocol", values: [protocol] }] : [];
  return [...service, { field, values }];
}

/** nftables' JSON: translation and marks. Rules that filter are told, and left to the user. */
export const nftJson: Reader = {
  kind: "nftables JSON",
  recognises: ({ text }) => (/^\s*\{\s*"nftables"\s*:/.test(text) ? 0.95 : 0),
  read(file, into) {
    const json = LocatedJson.read(file, into);
    if (!json) return;
    const hooks = new Map<string, string>();
    const rules: PlacedRule[] = [];
    for (const element of json.elements(["nftables"])) {
      const at = { ...element, file: file.name };
      const chain = chainSchema.safeParse(element.value);
      if (chain.success && chain.data.chain.hook)
        hooks.set(`${chain.data.chain.table} ${chain.data.chain.name}`, chain.data.chain.hook);
      const read = ruleSchema.safeParse(element.value);
      if (!read.success) into.fate(at, "known", "a table or chain, not a rule");
      else {
        const { table, chain: name, expr } = read.data.rule;
        rules.push({ at, hook: hooks.get(`${table} ${name}`) ?? null, ...ruleOfJson(expr) });
      }
    }
    take(rules, into);
  },
};

function ruleOfJson(expressions: readonly Record<string, unknown>[]): NftRule {
  const rule: NftRule = { conditions: [], action: null, ends: false };
  for (const expression of expressions) {
    for (const [kind, value] of Object.entries(expression)) {
      const target = value as {
        addr?: unknown;
        port?: unknown;
        key?: { meta?: unknown };
        value?: unknown;
      } | null;
      if (kind === "match") rule.conditions.push(...conditionsOfJson(value));
      else if (kind === "masquerade") rule.action = { kind: "source", to: "interface" };
      else if (kind === "snat") rule.action = { kind: "source", to: addressIn(target?.addr) };
      else if (kind === "dnat") {
        const port = typeof target?.port === "number" ? { port: target.port } : {};
        rule.action = { kind: "destination", to: addressIn(target?.addr), ...port };
      } else if (kind === "mangle" && keySchema.safeParse(target?.key?.meta).data?.key === "mark")
        rule.action = { kind: "mark", set: typeof target?.value === "number" ? target.value : null };
      else if (VERDICTS.has(kind)) rule.ends = true;
    }
  }
  return rule;
}

function conditionsOfJson(value: unknown): Condition[] {
  const match = matchSchema.safeParse(value);
  if (!match.success) return [{ field: "other", values: [] }];
  const { op, left, right } = match.data;
  const values = valuesOf(right);
  if ((op !== "==" && op !== "in") || values === null) return [{ field: "other", values: [] }];
  const meta = keySchema.safeParse(left.meta);
  if (meta.success) return [{ field: fieldOfMeta[meta.data.key] ?? "other", values }];
  const tracked = keySchema.safeParse(left.ct);
  if (tracked.success) return [{ field: tracked.data.key === "direction" ? "direction" : "other", values }];
  const payload = payloadSchema.safeParse(left.payload);
  if (payload.success) return payloadConditions(payload.data.protocol, payload.data.field, values);
  return [{ field: "other", values }];
}

/** The right side of a condition as text would have it; null where text would have more than values. */
function valuesOf(right: unknown): string[] | null {
  const { set, prefix, range } = (typeof right === "object" && right ? right : {}) as Record<string, unknown>;
  if (Array.isArray(set)) {
    const members = set.map(valuesOf);
    return members.every((member) => member !== null) ? members.flat() : null;
  }
  const { addr, len } = (prefix ?? {}) as Record<string, unknown>;
  if (typeof addr === "string" && typeof len === "number") return [`${addr}/${len}`];
  if (Array.isArray(range) && range.length === 2) return [range.join("-")];
  return typeof right === "string" || typeof right === "number" ? [String(right)] : null;
}

function addressIn(text: unknown): string | null {
  return typeof text === "string" && parseAddress(text) ? text : null;
}

const isTableHead = (line: string) =>
  /^table (?:ip|ip6|inet|bridge|netdev|arp) \S+ \{/.test(line.trimStart());

/** Words with which a statement begins that is no rule. */
const NO_RULE: ReadonlySet<string | undefined> = new Set([
  ...[undefined, "}", "type", "set", "map", "add", "delete", "flush"],
  ...["define", "include", "elements", "flags", "policy", "comment"],
]);

/** The rules of a line; mostly one. */
function rulesIn(line: string): NftRule[] {
  const statements = line.match(/(?:"[^"]*"|[^;"])+/g) ?? [];
  return statements.flatMap((statement) => ruleOfText(new Words(statement)) ?? []);
}

/** nftables' plain text: one rule a line. */
export const nftText: Reader = {
  kind: "nftables text",
  recognises: ({ text }) => (firstLines(text, 200).some(isTableHead) ? 0.9 : 0),
  read(file, into) {
    let hook: string | null = null;
    const rules: PlacedRule[] = [];
    for (const [i, raw] of linesOf(file, into).entries()) {
      if (raw.trim() === "") continue;
      const at = { file: file.name, line: i + 1, text: raw };
      if (/^\s*chain\b/.test(raw)) hook = null;
      hook = /\bhook (\w+)/.exec(raw)?.[1] ?? hook;
      const found = rulesIn(raw);
      if (found.length === 0) into.fate(at, "known", "a table or chain, not a rule");
      for (const rule of found) rules.push({ at, hook, ...rule });
    }
    take(rules, into);
  },
};

/** The words of a rule's text, taken one after another. */
class Words {
  private readonly words: readonly string[];
  private place = 0;

  constructor(line: string) {
    this.words = line.split("#", 1)[0].match(/"[^"]*"|[{},]|[^\s{},"]+/g) ?? [];
  }

  next(): string | undefined {
    return this.words[this.place++];
  }

  /** Passes the heads of a table and chain, or the command that adds a rule; the next word is the first of a statement. */
  skipHeads() {
    for (const head of ["table", "chain"])
      if (this.take(head))
        for (let word = this.next(); word !== undefined && word !== "{"; ) word = this.next();
    if (!this.take("add", "rule") && !this.take("insert", "rule")) return;
    if (["ip", "ip6", "inet"].includes(this.words[this.place])) this.place++;
    this.place += 2;
  }

  get first(): string | undefined {
    return this.words[this.place];
  }

  /** Takes the words that come next, if they are these. */
  take(...wanted: readonly string[]): boolean {
    const found = wanted.every((word, n) => this.words[this.place + n] === word);
    if (found) this.place += wanted.length;
    return found;
  }

  /** One value, or those of a set in braces; null behind a comparison other than with "==". */
  values(): string[] | null {
    if (this.take("!=") || this.take("<") || this.take(">")) {
      this.values();
      return null;
    }
    this.take("==");
    if (!this.take("{")) return [unquoted(this.next())];
    const values: string[] = [];
    for (let word = this.next(); word !== undefined && word !== "}"; word = this.next())
      if (word !== ",") values.push(unquoted(word));
    return values;
  }
}

const unquoted = (word = "") => word.replaceAll('"', "");

/** Null for a statement that is no rule. */
function ruleOfText(words: Words): NftRule | null {
  words.skipHeads();
  if (NO_RULE.has(words.first)) return null;
  const rule: NftRule = { conditions: [], action: null, ends: false };
  const condition = (of: (values: string[]) => Condition[]) => {
    const values = words.values();
    rule.conditions.push(...(values ? of(values) : [{ field: "other" as const, values: [] }]));
  };
  const meta = (name: string) => condition((values) => [{ field: fieldOfMeta[name] ?? "other", values }]);
  for (let word = words.next(); word !== undefined; word = words.next()) {
    if (word === "meta") {
      if (words.take("mark", "set")) rule.action = { kind: "mark", set: numberIn(words.next()) };
      else meta(words.next() ?? "");
    } else if (word in fieldOfMeta) meta(word);
    else if (word === "ct") {
      const field = words.next() === "direction" ? ("direction" as const) : ("other" as const);
      condition((values) => [{ field, values }]);
    } else if (["ip", "ip6", "tcp", "udp", "th"].includes(word)) {
      const name = words.next() ?? "";
      condition((values) => payloadConditions(word, name, values));
    } else if (word === "masquerade") rule.action = { kind: "source", to: "interface" };
    else if (word === "snat") rule.action = { kind: "source", to: addressIn(targetOf(words)) };
    else if (word === "dnat") rule.action = redirectionTo(targetOf(words));
    else if (VERDICTS.has(word)) rule.ends = true;
    else if (word === "counter") while (words.take("packets") || words.take("bytes")) words.next();
    else if (word === "comment") words.next();
    else if (rule.action === null && word !== "}") rule.conditions.push({ field: "other", values: [] });
  }
  return rule;
}

/** What stands behind "to" of a translation. */
function targetOf(words: Words): string {
  if (!words.take("ip", "to") && !words.take("ip6", "to")) words.take("to");
  return words.next() ?? "";
}

/** "10.0.0.9:8443", "[2001:db8::9]:8443" or an address alone. */
function redirectionTo(target: string): Action {
  if (parseAddress(target)) return { kind: "destination", to: target };
  const [, bracketed, plain, port] = /^(?:\[([^\]]*)\]|([^:]*))(?::(\d+))?$/.exec(target) ?? [];
  return {
    ...{ kind: "destination", to: addressIn(bracketed ?? plain) },
    ...(port === undefined ? {} : { port: Number(port) }),
  };
}

function numberIn(word = ""): number | null {
  return /^(?:0x[\da-f]{1,8}|\d{1,10})$/i.test(word) ? Number(word) : null;
}
