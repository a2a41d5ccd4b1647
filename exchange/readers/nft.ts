import { z } from "zod";
import {
  formatPrefix,
  hostPrefix,
  parseAddress,
  parsePrefix,
  parsePrefixOrHost,
} from "../../core/address/index.ts";
import type { Collector, DestinationFact } from "../facts/index.ts";
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

/** Where a rule sends what arrives instead; null where it does not, a sentence where a plan cannot say it. */
function redirectionOf(expressions: readonly Record<string, unknown>[]): DestinationFact | string | null {
  const dnat = expressions.find((expression) => "dnat" in expression)?.dnat as
    | { addr?: unknown; port?: unknown }
    | undefined;
  if (!dnat) return null;
  const found: { in: string[]; to?: string; protocol?: "tcp" | "udp"; port?: number } = { in: [] };
  for (const expression of expressions) {
    const match = matchSchema.safeParse(expression);
    if (!match.success) continue;
    const { op, left, right } = match.data.match;
    const what = JSON.stringify(left);
    const protocol = /"protocol":"(tcp|udp)"/.exec(what)?.[1] as "tcp" | "udp" | undefined;
    if (op !== "==") return UNSAYABLE;
    if (what.includes('"iifname"') && typeof right === "string") found.in.push(right);
    else if (what.includes('"iifname"') && Array.isArray((right as { set?: unknown[] })?.set))
      found.in.push(...(right as { set: unknown[] }).set.map(String));
    else if (what.includes('"daddr"') && typeof right === "string" && parseAddress(right)) found.to = right;
    else if (what.includes('"dport"') && protocol && typeof right === "number")
      Object.assign(found, { protocol, port: right });
    else return UNSAYABLE;
  }
  return destinationOf(found, dnat.addr, dnat.port);
}

const UNSAYABLE = "it translates only some packets by a condition that a plan cannot express";

function destinationOf(
  { in: ports, to, ...more }: { in: string[]; to?: string; protocol?: "tcp" | "udp"; port?: number },
  addr: unknown,
  port: unknown,
): DestinationFact | string {
  if (ports.length === 0) return "it has no incoming interface";
  if (to === undefined) return "it has no destination address";
  if (typeof addr !== "string" || !parseAddress(addr)) return "it translates to more than one address";
  const viaPort = typeof port === "number" && port !== more.port ? { viaPort: port } : {};
  return { in: ports, to, ...more, via: addr, ...viaPort };
}

/** The same of a line of text: `iifname "wan" ip daddr 192.0.2.9 tcp dport 443 dnat to 10.0.0.9:8443`. */
function redirectionIn(line: string): DestinationFact | string | null {
  const target = /\bdnat (?:ip6? )?to (\S+)/.exec(line)?.[1];
  if (target === undefined) return null;
  const [, addr = target, port] = /^\[?([\da-f:.]+?)\]?(?::(\d+))?$/i.exec(target) ?? [];
  const names = /\biifname (?:\{ ([^}]*) \}|(\S+))/.exec(line);
  const ports = (names?.[1] ?? names?.[2] ?? "")
    .split(/,\s*/)
    .map((name) => name.replaceAll('"', "").trim())
    .filter(Boolean);
  if (/\b(saddr|sport|mark|!=|oifname)\b|!=/.test(line)) return UNSAYABLE;
  const to = /\bip6? daddr (\S+)/.exec(line)?.[1];
  const dport = /\b(tcp|udp) dport (\S+)/.exec(line);
  if (dport && !/^\d+$/.test(dport[2])) return UNSAYABLE;
  const isIpv6 = target.startsWith("[") || (target.match(/:/g) ?? []).length > 1;
  const found = {
    in: ports,
    ...(to && parseAddress(to) ? { to } : {}),
    ...(dport ? { protocol: dport[1] as "tcp" | "udp", port: Number(dport[2]) } : {}),
  };
  return destinationOf(
    found,
    isIpv6 && !target.startsWith("[") ? target : addr,
    port === undefined || (isIpv6 && !target.startsWith("[")) ? undefined : Number(port),
  );
}

const redirectionText = ({ to, via, in: ports }: DestinationFact) =>
  `destination translation of ${to} on ${ports.join(", ")} to ${via}`;

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
      const redirected = redirectionOf(read.data.rule.expr);
      if (redirected !== null) {
        takeRedirection(redirected, at, into);
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

function takeRedirection(
  found: DestinationFact | string,
  at: { file: string; line: number; text: string },
  into: Collector,
) {
  if (typeof found === "string") return into.fate(at, "doubtful", `a destination translation, but ${found}`);
  const fresh = into.add("destinations", found);
  into.fate(at, fresh ? "taken" : "known", redirectionText(found));
}

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
      const redirected = redirectionIn(raw);
      if (redirected !== null) {
        takeRedirection(redirected, at, into);
        continue;
      }
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
