import { parseAddress } from "../../../core/address/index.ts";
import { firstLines, linesOf, type Reader } from "../reader.ts";
import { takeRules } from "./meaning.ts";
import {
  type Action,
  addressIn,
  type Condition,
  fieldOfMeta,
  type NftRule,
  type PlacedRule,
  payloadConditions,
  VERDICTS,
} from "./rule.ts";

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
    takeRules(rules, into);
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

/** The text after "to" in a translation. */
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
