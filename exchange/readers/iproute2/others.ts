import { z } from "zod";
import {
  formatAddress,
  formatPrefix,
  parseAddress,
  parsePrefix,
  parsePrefixOrHost,
} from "../../../core/address/index.ts";
import type { Collector, RuleFact } from "../../facts/index.ts";
import type { Located } from "../located.ts";

type At = Located & { file: string };

const wordOrNumber = z.union([z.string(), z.number()]);

/** The fields of a rule in `ip -j rule` that are read. */
const ruleSchema = z.looseObject({
  priority: z.number(),
  src: z.string().default("all"),
  srclen: z.number().optional(),
  dst: z.string().default("all"),
  dstlen: z.number().optional(),
  iif: z.string().optional(),
  table: wordOrNumber.optional(),
  ipproto: wordOrNumber.optional(),
  dport: wordOrNumber.optional(),
  dport_start: z.number().optional(),
  dport_end: z.number().optional(),
  fwmark: wordOrNumber.optional(),
  fwmask: wordOrNumber.optional(),
});
type RuleText = z.output<typeof ruleSchema>;

/** The parts of a rule that a plan can express; a rule with any other is reported and left out. */
const expressible = new Set([
  ...Object.keys(ruleSchema.shape),
  "l3mdev",
  "family",
  "protocol",
  "proto",
  "detached",
]);

/** Past it, a rule is asked where main has no match. */
const MAIN_PRIORITY = 32766;

/** The protocols that a rule can name, by the names and numbers that iproute2 gives them. */
const protocols: Readonly<Record<string, "icmp" | "tcp" | "udp">> = {
  icmp: "icmp",
  "ipv6-icmp": "icmp",
  "1": "icmp",
  "58": "icmp",
  tcp: "tcp",
  "6": "tcp",
  udp: "udp",
  "17": "udp",
};

/** Takes a rule that sends packets to a table. */
export function takeRule(value: unknown, at: At, into: Collector) {
  const read = ruleSchema.safeParse(value);
  if (!read.success) return into.fate(at, "not-understood", "not a rule: priority is missing");
  const { priority, src, srclen, dst, dstlen, iif, table } = read.data;
  const more = Object.keys(read.data).filter((key) => !expressible.has(key));
  const conditions = conditionsOf(read.data);
  const plain = src === "all" && dst === "all" && iif === undefined && more.length === 0;
  if (plain && Object.keys(conditions).length === 0 && ["local", "main", "default"].includes(String(table))) {
    return into.fate(at, "known", "a default rule of the system");
  }
  if (more.length > 0)
    return into.fate(at, "doubtful", `a rule with ${more.join(", ")}, which a plan cannot express`);
  if (table === undefined) return into.fate(at, "doubtful", "a rule without a table");
  if (read.data.l3mdev !== undefined) return into.fate(at, "known", "the lookup rule of VRFs");
  if (priority > MAIN_PRIORITY)
    return into.fate(at, "doubtful", "a rule after the main table, which a plan cannot express");
  const ends: (string | null)[] = [];
  for (const [text, length] of [
    [src, srclen],
    [dst, dstlen],
  ] as const) {
    const prefix = length === undefined ? parsePrefixOrHost(text) : parsePrefix(`${text}/${length}`);
    if (text !== "all" && !prefix) return into.fate(at, "not-understood", `"${text}" is not a prefix`);
    ends.push(prefix && formatPrefix(prefix));
  }
  const [from, to] = ends;
  if (typeof conditions === "string") return into.fate(at, "doubtful", conditions);
  const rule = {
    priority,
    from,
    in: iif ?? null,
    table: String(table),
    ...(to ? { to } : {}),
    ...conditions,
  };
  const fresh = into.add("rules", rule);
  const parts = [
    rule.from ?? "any source",
    to ? ` to ${to}` : "",
    iif ? ` received on ${iif}` : "",
    conditions.protocol ? ` ${conditions.protocol}` : "",
    conditions.port ? ` port ${conditions.port}` : "",
    conditions.mark === undefined ? "" : ` with mark ${conditions.mark}`,
  ];
  into.fate(at, fresh ? "taken" : "known", `a rule: ${parts.join("")} uses table ${table}`);
}

/** A rule's protocol, port and mark; a text says why a plan cannot say them. */
function conditionsOf(rule: RuleText): Partial<Pick<RuleFact, "protocol" | "port" | "mark">> | string {
  const { ipproto, dport, dport_start: first, dport_end: last, fwmark, fwmask } = rule;
  const protocol = ipproto === undefined ? undefined : protocols[String(ipproto)];
  if (ipproto !== undefined && !protocol)
    return `a rule for the protocol ${ipproto}, which a plan cannot express`;
  const port =
    dport !== undefined
      ? String(dport)
      : first === undefined
        ? undefined
        : last === undefined || last === first
          ? String(first)
          : `${first}-${last}`;
  if (port !== undefined && (protocol === undefined || protocol === "icmp"))
    return "a rule for a port without tcp or udp, which a plan cannot express";
  const [value, mask = fwmask] = String(fwmark ?? "").split("/");
  if (mask !== undefined && Number(mask) !== 0xffffffff)
    return `a rule with the mark ${fwmark} and a mask, which a plan cannot express`;
  const mark = fwmark === undefined ? undefined : Number(value);
  if (mark !== undefined && !(Number.isInteger(mark) && mark > 0))
    return `a rule with the mark ${fwmark}, which a plan cannot express`;
  return {
    ...(protocol ? { protocol } : {}),
    ...(port ? { port } : {}),
    ...(mark === undefined ? {} : { mark }),
  };
}

/** The fields of an entry in `ip -j neighbour` that are read. */
const neighbourSchema = z.looseObject({
  dst: z.string(),
  dev: z.string().optional(),
  lladdr: z.string().optional(),
  state: z.array(z.string()).default([]),
});

/** Takes a neighbour that was seen. */
export function takeNeighbour(value: unknown, at: At, into: Collector) {
  const read = neighbourSchema.safeParse(value);
  const address = read.success ? parseAddress(read.data.dst) : null;
  if (!read.success || !address)
    return into.fate(at, "not-understood", "not a neighbor: dst is not an address");
  const { dev, lladdr, state } = read.data;
  if (lladdr === undefined) {
    return into.fate(
      at,
      "doubtful",
      `${read.data.dst} did not respond (${state.join(", ").toLowerCase() || "no state"})`,
    );
  }
  const entry = { address: formatAddress(address), hardware: lladdr.toLowerCase(), interface: dev ?? null };
  const fresh = into.add("neighbours", entry);
  into.fate(at, fresh ? "taken" : "known", `the neighbor ${entry.address} on ${dev}`);
}

/** The fields of an interface in `ip -j netconf` that are read. */
const netconfSchema = z.looseObject({
  family: z.string(),
  interface: z.string(),
  forwarding: z.boolean().optional(),
});

/** Takes whether the device forwards. */
export function takeNetconf(value: unknown, at: At, into: Collector) {
  const read = netconfSchema.safeParse(value);
  if (!read.success) return into.fate(at, "not-understood", "no forwarding state of an interface");
  const { family, interface: name, forwarding } = read.data;
  if (name !== "all") return into.fate(at, "known", `${name} follows the setting for all interfaces`);
  if (forwarding === undefined) return into.fate(at, "doubtful", "no forwarding state");
  into.facts.forwarding[family === "inet6" ? "ipv6" : "ipv4"] = forwarding;
  into.fate(
    at,
    "taken",
    `${family === "inet6" ? "IPv6" : "IPv4"} forwarding is ${forwarding ? "on" : "off"}`,
  );
}
