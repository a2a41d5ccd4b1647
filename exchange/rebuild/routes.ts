import {
  containsAddress,
  parseAddress,
  parseInterfaceAddress,
  parsePrefix,
  prefixOf,
} from "../../core/address/index.ts";
import type { Collector, DeviceFacts, RouteFact } from "../facts/index.ts";
import { interfaceNameOf } from "./names.ts";

/** A network that a device is attached to: it says so, or it names an interface alone, and nobody told what its word means. */
export function isAttached({
  source,
  via,
  out,
  discard,
}: Pick<RouteFact, "to" | "vrf" | "source" | "via" | "out" | "discard">): boolean {
  return source === "connected" || (source === null && via === null && out !== null && discard === null);
}

export const isSystem = (route: RouteFact) => isAttached(route) || route.source === "local";
/** A route that somebody wrote: it says so, or nothing says where it came from. */
export const isStatic = (route: RouteFact) =>
  !isSystem(route) && (route.source === "static" || route.source === null || route.discard !== null);
export const isLearned = (route: RouteFact) =>
  !isSystem(route) && !isStatic(route) && (route.via !== null || route.out !== null);

/** Of routes of one identity the first: the plan has each once. */
export function once(routes: readonly Record<string, unknown>[]): Record<string, unknown>[] {
  const seen = new Set<string>();
  return routes.filter((route) => {
    const kind = route.discard ? "discard" : "next-hop";
    const key = `${route.vrf ?? "main"} ${route.to} ${route.via ?? ""} ${route.out ?? ""} ${kind}`;
    const leads = route.via !== undefined || route.out !== undefined || route.discard !== undefined;
    return leads && !seen.has(key) && seen.add(key);
  });
}

export function staticOf(
  route: RouteFact,
  collector: Collector,
  usesDistance: boolean,
): Record<string, unknown> {
  const onLink =
    collector.onLink.has(`${route.to} ${route.via} ${route.out}`) ||
    isReachedStraight(route, collector.facts);
  return {
    to: route.to,
    ...(route.via !== null && route.discard === null ? { via: route.via } : {}),
    ...(route.out !== null && route.discard === null ? { out: interfaceNameOf(route.out) } : {}),
    ...(route.vrf !== "main" ? { vrf: route.vrf } : {}),
    ...(usesDistance && route.distance !== null && route.distance > 0 ? { distance: route.distance } : {}),
    ...(route.metric !== null && route.metric > 0 ? { metric: route.metric } : {}),
    ...(route.weight !== undefined ? { weight: Math.min(256, route.weight) } : {}),
    ...(onLink && route.via !== null && route.out !== null ? { onLink: true } : {}),
    ...(route.discard !== null ? { discard: route.discard } : {}),
  };
}

/**
 * Whether a next hop lies outside the subnets of its interface, behind a route straight out of it: a kernel that holds such a route
 * sends to the next hop whatever becomes of the other one.
 */
function isReachedStraight({ via, out }: RouteFact, { routes, interfaces }: DeviceFacts): boolean {
  const address = via === null ? null : parseAddress(via);
  if (!address || out === null) return false;
  const holds = (text: string) => {
    const prefix = parsePrefix(text);
    return prefix !== null && containsAddress(prefix, address);
  };
  const own = interfaces.find(({ name }) => name === out)?.addresses ?? [];
  const isIn = (text: string) => {
    const read = parseInterfaceAddress(text);
    return read !== null && containsAddress(prefixOf(read.address, read.length), address);
  };
  if (own.some(isIn)) return false;
  return routes.some((one) => one.via === null && one.discard === null && one.out === out && holds(one.to));
}

export function learnedOf(route: RouteFact): Record<string, unknown> {
  return {
    to: route.to,
    ...(route.via !== null ? { via: route.via } : {}),
    ...(route.out !== null ? { out: interfaceNameOf(route.out) } : {}),
    ...(route.vrf !== "main" ? { vrf: route.vrf } : {}),
    protocol: protocolOf(route.source as string),
    ...(route.distance !== null && route.distance > 0 ? { distance: route.distance } : {}),
    ...(route.metric !== null && route.metric > 0 ? { metric: route.metric } : {}),
  };
}

function protocolOf(source: string): string {
  const word = source
    .toLowerCase()
    .replace(/[^a-z0-9-]/g, "-")
    .replace(/^[^a-z]+/, "");
  return word.slice(0, 31) || "other";
}
