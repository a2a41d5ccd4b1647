import { profileOf } from "../../core/network/index.ts";
import type { Device, Plan, StaticRoute } from "../../core/plan/index.ts";

/** The number of a device's first table: iproute2 takes numbers where its own list of names has none. */
const FIRST_TABLE = 100;
/** The priority of a device's first rule. */
const FIRST_RULE = 1000;

/** One next hop of a route. */
export interface Hop {
  readonly via: string | null;
  readonly out: string | null;
  readonly onLink: boolean;
  readonly weight: number;
}

/** What a Linux kernel keeps as one route: of a destination, a metric and a table there is one, with all its next hops. */
export interface KernelRoute {
  readonly to: string;
  readonly metric: number;
  readonly table: number | null;
  readonly kind: "unicast" | "blackhole" | "unreachable";
  readonly hops: readonly Hop[];
}

/** A device as iproute2 configures it on a Linux kernel. Keys identify items before and after a change. */
export interface Kernel {
  /** VRFs and their tables. */
  readonly vrfs: ReadonlyMap<string, number>;
  readonly ports: ReadonlyMap<string, { readonly vrf: string | null; readonly up: boolean }>;
  /** "prefix dev": addresses with their interfaces. */
  readonly addresses: ReadonlyMap<string, { readonly address: string; readonly port: string }>;
  readonly routes: ReadonlyMap<string, KernelRoute>;
  /** Rules that lead to a policy table, each as the words after "rule add". */
  readonly rules: ReadonlySet<string>;
}

/** The numbers of VRFs and policy tables, by name. */
export type Tables = ReadonlyMap<string, number>;

/** Numbers for the tables of a device: those that it has keep theirs when others come to it (`then`). */
export function tablesOf(device: Device, then: Device = device): Tables {
  const names = [...namesOf(device), ...namesOf(then)];
  return new Map([...new Set(names)].map((name, n) => [name, FIRST_TABLE + n]));
}

function namesOf({ interfaces, policyTables }: Device): string[] {
  const vrfs = interfaces.flatMap(({ vrf }) => (vrf && vrf !== "main" ? [`vrf ${vrf}`] : []));
  return [...vrfs, ...policyTables.map(({ name }) => `table ${name}`)];
}

const isIpv6 = (text: string) => text.includes(":");

/** The parts of a device that iproute2 can configure; without routes into other VRFs and by offered gateways. */
export function kernelOf(plan: Plan, device: Device, tables: Tables): Kernel {
  const own = namesOf(device).filter((name) => name.startsWith("vrf "));
  const vrfs = new Map([...new Set(own)].map((name) => [name.slice(4), tables.get(name) as number]));
  const { profile } = profileOf(plan, device);
  const routes = new Map<string, KernelRoute>();
  const add = (route: StaticRoute, table: number | null) => {
    if (route.enabled === false || route.toVrf || route.viaFrom) return;
    const metric = kernelMetric(route, profile.staticDistance);
    const key = [isIpv6(route.to) ? 6 : 4, table ?? "main", route.to, metric].join(" ");
    const known = routes.get(key);
    const hop = {
      via: route.via ?? null,
      out: route.out ?? null,
      onLink: route.onLink === true,
      weight: route.weight ?? 1,
    };
    const kind = route.discard === "drop" ? "blackhole" : route.discard ? "unreachable" : "unicast";
    // Of one destination and metric there is one route: next hops beside each other are its own, all else comes too late.
    if (!known) routes.set(key, { to: route.to, metric, table, kind, hops: kind === "unicast" ? [hop] : [] });
    else if (kind === "unicast" && known.kind === "unicast")
      routes.set(key, { ...known, hops: [...known.hops, hop] });
  };
  for (const route of device.routes) add(route, route.vrf ? (vrfs.get(route.vrf) ?? null) : null);
  const rules = new Set<string>();
  for (const [i, table] of device.policyTables.entries()) {
    const number = tables.get(`table ${table.name}`) as number;
    for (const route of table.routes) add(route, number);
    for (const rule of rulesOf(table)) rules.add(`${rule} lookup ${number} priority ${FIRST_RULE + i}`);
  }
  return { vrfs, ports: portsOf(device, vrfs), addresses: addressesOf(device), routes, rules };
}

function portsOf({ interfaces }: Device, vrfs: ReadonlyMap<string, number>): Kernel["ports"] {
  return new Map(
    interfaces.map(({ name, vrf, enabled }) => [
      name,
      { vrf: vrf && vrfs.has(vrf) ? vrf : null, up: enabled !== false },
    ]),
  );
}

function addressesOf({ interfaces }: Device): Kernel["addresses"] {
  return new Map(
    interfaces.flatMap(({ name, addresses }) =>
      addresses.map((address) => [`${address} ${name}`, { address, port: name }]),
    ),
  );
}

/** The rules that lead to a policy table; a match without prefixes is written for each family of its routes. */
function rulesOf({ match, routes }: Device["policyTables"][number]) {
  const { in: ports, from, to, protocol, port, mark } = match;
  const some = <T>(list: readonly T[] | undefined): readonly (T | null)[] => (list?.length ? list : [null]);
  const named = [...(from ?? []), ...(to ?? [])];
  const hasIpv6 = named.length > 0 ? named.some(isIpv6) : routes.some((route) => isIpv6(route.to));
  const hasIpv4 =
    named.length > 0
      ? !named.every(isIpv6)
      : !hasIpv6 || routes.length === 0 || routes.some((route) => !isIpv6(route.to));
  return [false, true].flatMap((six) => {
    if (!(six ? hasIpv6 : hasIpv4)) return [];
    const ofFamily = (prefix: string | null) => prefix === null || isIpv6(prefix) === six;
    const always = [
      protocol ? `ipproto ${protocol === "icmp" && six ? "ipv6-icmp" : protocol}` : "",
      port ? `dport ${port}` : "",
      mark === undefined ? "" : `fwmark ${mark}`,
    ];
    return some(from)
      .filter(ofFamily)
      .flatMap((source) =>
        some(to)
          .filter(ofFamily)
          .flatMap((destination) =>
            some(ports).map((incoming) =>
              [
                `${six ? "-6 " : ""}from ${source ?? "all"}`,
                destination ? `to ${destination}` : "",
                incoming ? `iif ${incoming}` : "",
                ...always,
              ]
                .filter(Boolean)
                .join(" "),
            ),
          ),
      );
  });
}

/** The kernel's metric represents the plan's distance: the lower is preferred. IPv6 reads metric 0 as 1024, so 1 is
 * used. */
function kernelMetric({ to, distance, metric = 0 }: StaticRoute, staticDistance: number | null): number {
  const value = staticDistance === null ? metric : (distance ?? staticDistance);
  return isIpv6(to) ? Math.max(1, value) : value;
}
