import { z } from "zod";
import {
  defaultPrefix,
  type Family,
  formatAddress,
  formatPrefix,
  parseAddress,
  parsePrefixOrHost,
} from "../../../core/address/index.ts";
import type { Collector, RouteFact } from "../../facts/index.ts";
import type { Located } from "../located.ts";

const hopSchema = z.looseObject({
  gateway: z.string().optional(),
  via: z.looseObject({ host: z.string() }).optional(),
  dev: z.string().optional(),
  weight: z.number().optional(),
  flags: z.array(z.string()).default([]),
});

/** The fields of a route in `ip -j route` that are read. */
export const routeSchema = hopSchema.extend({
  type: z.string().optional(),
  dst: z.string(),
  table: z.union([z.string(), z.number()]).optional(),
  protocol: z.union([z.string(), z.number()]).optional(),
  scope: z.union([z.string(), z.number()]).optional(),
  metric: z.number().optional(),
  pref: z.string().optional(),
  prefsrc: z.string().optional(),
  nexthops: z.array(hopSchema).optional(),
});
export type RouteObject = z.output<typeof routeSchema>;

/** Entries that the kernel makes for itself: they say nothing that the addresses do not. */
const ownTypes = new Set(["broadcast", "multicast", "anycast"]);
const discards: Readonly<Record<string, RouteFact["discard"]>> = {
  blackhole: "drop",
  unreachable: "reject",
  prohibit: "reject",
};

function familyOf(route: RouteObject): Family {
  const hop = route.gateway ?? route.nexthops?.[0]?.gateway;
  const told = hop === undefined ? null : parseAddress(hop);
  if (told && !route.via) return told.family;
  return route.pref !== undefined || route.dst.includes(":") ? 6 : 4;
}

function destinationOf(route: RouteObject): string | null {
  if (route.dst === "default") return formatPrefix(defaultPrefix(familyOf(route)));
  const prefix = parsePrefixOrHost(route.dst);
  return prefix && formatPrefix(prefix);
}

function sourceOf({ type, protocol, gateway, nexthops }: RouteObject): string | null {
  if (type === "local") return "local";
  if (protocol === "kernel") return gateway || nexthops ? "static" : "connected";
  if (protocol === "static" || protocol === "boot" || protocol === undefined) return "static";
  return String(protocol);
}

/** Adds a route, with a fact for each of its next hops. */
export function takeRoute(value: unknown, at: Located & { file: string }, into: Collector) {
  const read = routeSchema.safeParse(value);
  if (!read.success) return into.fate(at, "not-understood", "not a route: dst is missing");
  const route = read.data;
  const to = destinationOf(route);
  if (to === null) return into.fate(at, "not-understood", `"${route.dst}" is not a destination`);
  if (route.type !== undefined && ownTypes.has(route.type)) {
    return into.fate(at, "known", `a ${route.type} entry of the system`);
  }
  if (to === "fe80::/64" || to === "ff00::/8" || to.startsWith("127.") || to === "::1/128") {
    return into.fate(at, "known", "a default entry of the interface");
  }
  if (route.type === "throw")
    return into.fate(
      at,
      "doubtful",
      "a throw route, which continues with the next rule: a plan cannot express it",
    );
  const table = String(route.table ?? "main");
  const source = sourceOf(route);
  const discard = discards[route.type ?? ""] ?? null;
  const hops = route.nexthops ?? [route];
  const own = parseAddress(route.prefsrc ?? "");
  const family = parsePrefixOrHost(to)?.address.family;
  let fresh = 0;
  let others = 0;
  for (const hop of hops) {
    const via = parseAddress(hop.gateway ?? hop.via?.host ?? "");
    if (via && via.family !== family) {
      others++;
      continue;
    }
    const flags = [...route.flags, ...hop.flags];
    const fact: RouteFact = {
      to,
      via: via && formatAddress(via),
      out: discard ? null : (hop.dev ?? null),
      vrf: into.vrfOfTable.get(table) ?? "main",
      table: into.vrfOfTable.has(table) ? null : table,
      source,
      distance: null,
      metric: route.metric ?? null,
      active: !flags.includes("dead") && !flags.includes("linkdown"),
      discard,
      ...(hop.weight !== undefined && hop.weight > 1 ? { weight: hop.weight } : {}),
      ...(own ? { own: formatAddress(own) } : {}),
    };
    if (into.route(fact)) fresh++;
    if (flags.includes("onlink")) into.onLink.add(`${to} ${fact.via} ${fact.out}`);
  }
  if (others > 0)
    return into.fate(
      at,
      "doubtful",
      `${others === hops.length ? "a route" : `${others} of ${hops.length} routes`} to ${to} by a next hop of the other address family, which a plan cannot express`,
    );
  if (fresh === 0) return into.fate(at, "known", `the route to ${to} was already listed`);
  into.fate(at, "taken", `${hops.length > 1 ? `${hops.length} routes` : "a route"} to ${to}, ${source}`);
}
