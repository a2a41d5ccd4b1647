import { z } from "zod";
import {
  formatPrefix,
  hostPrefix,
  parseAddress,
  parsePrefix,
  parsePrefixOrHost,
} from "../../core/address/index.ts";
import { LocatedJson } from "./located.ts";
import { firstLines, linesOf, type Reader } from "./reader.ts";

const ruleSchema = z.looseObject({
  rule: z.looseObject({ table: z.string(), chain: z.string(), expr: z.array(z.looseObject({})).default([]) }),
});
const matchSchema = z.looseObject({
  match: z.looseObject({ op: z.string(), left: z.unknown(), right: z.unknown() }),
});
const prefixSchema = z.looseObject({ prefix: z.looseObject({ addr: z.string(), len: z.number() }) });

/** A prefix or an address as nftables writes them; null for a set of them, or anything else. */
function prefixOf(value: unknown): string | null {
  const read = prefixSchema.safeParse(value);
  if (read.success) {
    const prefix = parsePrefix(`${read.data.prefix.addr}/${read.data.prefix.len}`);
    return prefix && formatPrefix(prefix);
  }
  const address = typeof value === "string" ? parseAddress(value) : null;
  return address && formatPrefix(hostPrefix(address));
}

/** What a rule translates: its way out, the sources, and what they become; a sentence where a plan cannot say it. */
function translationOf(expressions: readonly Record<string, unknown>[]) {
  let out: string | null = null;
  const from: string[] = [];
  let to: string | null = null;
  for (const expression of expressions) {
    const match = matchSchema.safeParse(expression);
    if (match.success) {
      const left = JSON.stringify(match.data.match.left);
      const right = match.data.match.right;
      if (match.data.match.op === "==" && left.includes('"oifname"') && typeof right === "string")
        out = right;
      else if (match.data.match.op === "==" && left.includes('"saddr"')) {
        const list = Array.isArray((right as { set?: unknown[] })?.set)
          ? (right as { set: unknown[] }).set
          : [right];
        for (const item of list) {
          const prefix = prefixOf(item);
          if (prefix === null) return "its sources cannot be read";
          from.push(prefix);
        }
      } else return "it translates only some packets by a condition that a plan cannot express";
    } else if ("masquerade" in expression) to = "interface";
    else if ("snat" in expression) {
      const { addr } = (expression.snat ?? {}) as { addr?: unknown };
      if (typeof addr !== "string" || !parseAddress(addr)) return "it translates to more than one address";
      to = addr;
    }
  }
  if (to === null) return null;
  return out === null ? "it has no outgoing interface" : { out, from, to };
}

/** nftables' JSON: source translation. Rules that filter are told, and left to the user. */
export const nftJson: Reader = {
  kind: "nftables JSON",
  recognises: ({ text }) => (/^\s*\{\s*"nftables"\s*:/.test(text) ? 0.95 : 0),
  read(file, into) {
    const json = LocatedJson.read(file, into);
    if (!json) return;
    for (const element of json.elements(["nftables"])) {
      const at = { ...element, file: file.name };
      const read = ruleSchema.safeParse(element.value);
      if (!read.success) {
        into.fate(at, "known", "a table or chain, not a rule");
        continue;
      }
      const found = translationOf(read.data.rule.expr);
      if (found === null) into.fate(at, "doubtful", "a filter rule: add it as policy on the device's page");
      else if (typeof found === "string") into.fate(at, "doubtful", `a translation, but ${found}`);
      else {
        const fresh = into.add("translations", found);
        into.fate(at, fresh ? "taken" : "known", `source translation on ${found.out} to ${found.to}`);
      }
    }
  },
};

const isTableHead = (line: string) =>
  /^table (?:ip|ip6|inet|bridge|netdev|arp) \S+ \{/.test(line.trimStart());

const MASQUERADE = /\b(masquerade|snat(?: ip6?)? to (\S+))/;

/** nftables' plain text: the rules that translate sources, line by line. */
export const nftText: Reader = {
  kind: "nftables text",
  recognises: ({ text }) => (firstLines(text, 200).some(isTableHead) ? 0.9 : 0),
  read(file, into) {
    for (const [i, raw] of linesOf(file, into).entries()) {
      if (raw.trim() === "") continue;
      const at = { file: file.name, line: i + 1, text: raw };
      const found = MASQUERADE.exec(raw);
      if (!found) {
        const filters = /\b(accept|drop|reject|jump|goto)\b/.test(raw) && !/\bpolicy\b/.test(raw);
        const detail = "a filter rule: add it as policy on the device's page";
        into.fate(at, filters ? "doubtful" : "known", filters ? detail : "a table or chain, not a rule");
        continue;
      }
      const out = /\boifname "?([^"\s]+)"?/.exec(raw)?.[1];
      const sources = /\bip6? saddr (?:\{ ([^}]*) \}|(\S+))/.exec(raw);
      const from = (sources?.[1] ?? sources?.[2] ?? "").split(/,\s*/).filter(Boolean).map(prefixText);
      const others = /\b(daddr|dport|sport|mark|iifname|saddr !=|oifname !=)\b/.test(raw);
      if (!out) into.fate(at, "doubtful", "a translation, but it has no outgoing interface");
      else if (others || from.includes(null))
        into.fate(
          at,
          "doubtful",
          "a translation, but of only some packets by a condition that a plan cannot express",
        );
      else {
        const to = found[2] ?? "interface";
        const fresh = into.add("translations", { out, from: from as string[], to });
        into.fate(at, fresh ? "taken" : "known", `source translation on ${out} to ${to}`);
      }
    }
  },
};

function prefixText(text: string): string | null {
  const prefix = parsePrefixOrHost(text);
  return prefix && formatPrefix(prefix);
}
