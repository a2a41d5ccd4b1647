import {
  containsAddress,
  exactCover,
  hostPrefix,
  type Prefix,
  PrefixList,
  parseAddress,
  parseInterfaceAddress,
  parsePrefix,
  prefixOf,
} from "../../core/address/index.ts";
import { addTo } from "../../core/collections/index.ts";
import type { Collector, RouteFact } from "../facts/index.ts";
import { interfaceNameOf } from "./names.ts";

/** A connected network: named so, or an interface without a next hop and with an unknown word. */
export function isAttached({
  source,
  via,
  out,
  discard,
}: Pick<RouteFact, "to" | "vrf" | "source" | "via" | "out" | "discard">): boolean {
  return source === "connected" || (source === null && via === null && out !== null && discard === null);
}

export const isSystem = (route: RouteFact) => isAttached(route) || route.source === "local";
/** A static route: named so, or without a known source. */
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

export function staticOf(route: RouteFact, onLink: OnLink, usesDistance: boolean): Record<string, unknown> {
  return {
    to: route.to,
    ...(route.via !== null && route.discard === null ? { via: route.via } : {}),
    ...(route.out !== null && route.discard === null ? { out: interfaceNameOf(route.out) } : {}),
    ...(route.vrf !== "main" ? { vrf: route.vrf } : {}),
    ...(usesDistance && route.distance !== null && route.distance > 0 ? { distance: route.distance } : {}),
    ...(route.metric !== null && route.metric > 0 ? { metric: route.metric } : {}),
    ...(route.weight !== undefined ? { weight: Math.min(256, route.weight) } : {}),
    ...(onLink.has(route) ? { onLink: true } : {}),
    ...(route.discard !== null ? { discard: route.discard } : {}),
  };
}

/** For one device: whether a route's next hop is on-link regardless of its subnets. Either the device reports it, or
 * the next hop is behind a route straight out of the same interface: a kernel that accepted the route keeps using it
 * without the other one. */
export class OnLink {
  private readonly subnets: ReadonlyMap<string, readonly Prefix[]>;
  /** Destinations of routes straight out of an interface, by interface. */
  private readonly straight: ReadonlyMap<string, PrefixList<Prefix>>;

  constructor(private readonly collector: Collector) {
    const { interfaces, routes } = collector.facts;
    this.subnets = new Map(
      interfaces.map(({ name, addresses }) => [
        name,
        addresses.flatMap((text) => {
          const read = parseInterfaceAddress(text);
          return read ? [prefixOf(read.address, read.length)] : [];
        }),
      ]),
    );
    const straight = new Map<string, Prefix[]>();
    for (const { to, via, out, discard } of routes) {
      const prefix = via === null && out !== null && discard === null ? parsePrefix(to) : null;
      if (prefix) addTo(straight, out as string, prefix);
    }
    this.straight = new Map(
      [...straight].map(([out, prefixes]) => [out, new PrefixList(exactCover(prefixes), (prefix) => prefix)]),
    );
  }

  has({ to, via, out }: RouteFact): boolean {
    if (via === null || out === null) return false;
    if (this.collector.onLink.has(`${to} ${via} ${out}`)) return true;
    const straight = this.straight.get(out);
    const address = straight ? parseAddress(via) : null;
    if (!straight || !address) return false;
    if (this.subnets.get(out)?.some((subnet) => containsAddress(subnet, address))) return false;
    return straight.holding(hostPrefix(address)).length > 0;
  }
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
