import { z } from "zod";
import {
  formatAddress,
  formatPrefix,
  parseAddress,
  parsePrefix,
  parsePrefixOrHost,
} from "../../../core/address/index.ts";
import type { Collector } from "../../facts/index.ts";
import type { Located } from "../located.ts";

type At = Located & { file: string };

/** What `ip -j rule` says of a rule, as far as it is read. */
export const ruleSchema = z.looseObject({
  priority: z.number(),
  src: z.string().default("all"),
  srclen: z.number().optional(),
  iif: z.string().optional(),
  table: z.union([z.string(), z.number()]).optional(),
});

/** Conditions of a rule that a plan cannot say: what they select is told, and left out. */
const beyond = ["fwmark", "oif", "dst", "ipproto", "sport", "dport", "tos", "uidrange", "not"];

/** Takes a rule that sends packets to a table. */
export function takeRule(value: unknown, at: At, into: Collector) {
  const read = ruleSchema.safeParse(value);
  if (!read.success) return into.fate(at, "not-understood", "not a rule: priority is missing");
  const { priority, src, srclen, iif, table } = read.data;
  const plain = src === "all" && iif === undefined;
  if (plain && ["local", "main", "default"].includes(String(table))) {
    return into.fate(at, "known", "a default rule of the system");
  }
  const more = beyond.filter((key) => key in read.data && read.data[key] !== "all");
  if (more.length > 0)
    return into.fate(at, "doubtful", `a rule with ${more.join(", ")}, which a plan cannot express`);
  if (table === undefined) return into.fate(at, "doubtful", "a rule without a table");
  if (read.data.l3mdev !== undefined) return into.fate(at, "known", "the lookup rule of VRFs");
  const prefix = srclen === undefined ? parsePrefixOrHost(src) : parsePrefix(`${src}/${srclen}`);
  if (src !== "all" && !prefix) return into.fate(at, "not-understood", `"${src}" is not a prefix`);
  const rule = { priority, from: prefix && formatPrefix(prefix), in: iif ?? null, table: String(table) };
  const fresh = into.add("rules", rule);
  into.fate(
    at,
    fresh ? "taken" : "known",
    `a rule: ${rule.from ?? "any source"}${iif ? ` received on ${iif}` : ""} uses table ${table}`,
  );
}

/** What `ip -j neighbour` says of a neighbour, as far as it is read. */
export const neighbourSchema = z.looseObject({
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

/** What `ip -j netconf` says of an interface, as far as it is read. */
export const netconfSchema = z.looseObject({
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
