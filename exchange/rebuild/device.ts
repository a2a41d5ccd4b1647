import {
  type Address,
  containsAddress,
  formatAddress,
  isIpv6LinkLocal,
  nextAddress,
  type Prefix,
  parseAddress,
  parseInterfaceAddress,
  parsePrefix,
} from "../../core/address/index.ts";
import type { Collector, DeviceFacts, InterfaceFact, RouteFact } from "../facts/index.ts";
import { interfaceNameOf } from "./names.ts";
import { isAttached, isLearned, isStatic, learnedOf, OnLink, once, staticOf } from "./routes.ts";
import { marksOf, ownTables, policyTablesOf } from "./steering.ts";

/** A device as the plan's document writes it, before it is read. */
export interface DeviceDocument {
  id: string;
  label?: string;
  role: string;
  profile?: string;
  forwarding?: { ipv4?: boolean; ipv6?: boolean };
  note?: string;
  outline?: boolean;
  interfaces: InterfaceDocument[];
  routes: Record<string, unknown>[];
  learned: Record<string, unknown>[];
  policyTables: Record<string, unknown>[];
  sourceNat: Record<string, unknown>[];
}

/** A device's facts and the plan's device made from them. */
export interface ReadDevice {
  readonly collector: Collector;
  readonly document: DeviceDocument;
}

export interface InterfaceDocument {
  name: string;
  kind?: string;
  vrf?: string;
  addresses: string[];
  members?: string[];
  minUp?: number;
  lacp?: string;
  parent?: string;
  vlan?: number;
  enabled?: boolean;
  zone?: string;
  hardware?: string;
  virtual?: Record<string, unknown>[];
  note?: string;
}

const kinds = new Set(["ethernet", "serial", "tunnel", "loopback"]);

/** The plan's device for one device's facts. `wanted` lists link-local addresses used as next hops. */
export function deviceOf(collector: Collector, id: string, wanted: ReadonlySet<string>): DeviceDocument {
  const { facts } = collector;
  const interfaces = interfacesOf(facts, wanted);
  const role = roleOf(facts, interfaces);
  const usesDistance = facts.routes.some((route) => route.distance !== null);
  const usesMetric = facts.routes.some(
    (route) => route.metric !== null || (route.table !== null && ownTables.has(route.table)),
  );
  const forwards = { ipv4: facts.forwarding.ipv4, ipv6: facts.forwarding.ipv6 };
  const byDefault = role !== "host";
  const told = Object.fromEntries(
    Object.entries(forwards).filter(([, on]) => on !== null && on !== byDefault),
  );
  const onLink = new OnLink(collector);
  const tables = policyTablesOf(facts, onLink);
  const inTables = new Set(facts.rules.map((rule) => rule.table));
  const own = facts.routes.filter(
    (route) => route.table === null || ownTables.has(route.table) || !inTables.has(route.table),
  );
  return {
    id,
    ...(facts.device === id ? {} : { label: facts.device }),
    role,
    ...(role === "router"
      ? { profile: usesDistance || !usesMetric ? "classic-router" : "metric-router" }
      : {}),
    ...(Object.keys(told).length > 0 ? { forwarding: told as { ipv4?: boolean; ipv6?: boolean } } : {}),
    interfaces,
    routes: once(own.filter(isStatic).map((route) => staticOf(route, onLink, usesDistance))),
    learned: own.filter(isLearned).map((route) => learnedOf(route)),
    policyTables: tables,
    ...(facts.destinations.length > 0
      ? {
          destNat: facts.destinations.map(({ in: ports, ...more }) => ({
            in: ports.map((name) => interfaceNameOf(name)),
            ...more,
          })),
        }
      : {}),
    ...(facts.marks.length > 0 ? { marks: marksOf(facts.marks) } : {}),
    sourceNat: facts.translations.map(({ out, from, to }) => ({
      out: interfaceNameOf(out),
      ...(from.length > 0 ? { from } : {}),
      to,
    })),
  };
}

/** Who forwards is a router; who has one way into the network and says nothing of forwarding is a host. */
function roleOf(
  { forwarding, routes }: DeviceFacts,
  interfaces: readonly InterfaceDocument[],
): "router" | "host" {
  if (forwarding.ipv4 || forwarding.ipv6) return "router";
  if (forwarding.ipv4 === false || forwarding.ipv6 === false) return "host";
  const attached = interfaces.filter((entry) => entry.kind !== "loopback" && entry.addresses.length > 0);
  const defaultsOnly = routes.every(
    (route) => route.source === "connected" || route.source === "local" || route.to.endsWith("/0"),
  );
  return attached.length === 1 && defaultsOnly ? "host" : "router";
}

function interfacesOf(facts: DeviceFacts, wanted: ReadonlySet<string>): InterfaceDocument[] {
  const told = facts.interfaces.filter(
    (entry) =>
      entry.kind !== "vrf" &&
      !(entry.kind === "loopback" && entry.addresses.length === 0) &&
      !(entry.kind === "bridge" && entry.addresses.length === 0),
  );
  const made = new Map(told.map((entry) => [entry.name, interfaceOf(entry, wanted)]));
  for (const entry of told) {
    buildOn(entry, made);
    shareOn(entry, made);
  }
  for (const { name, address, vrf } of fromRoutes(facts)) {
    const known = made.get(name);
    if (!known) {
      made.set(name, {
        name: interfaceNameOf(name),
        ...(vrf === "main" ? {} : { vrf }),
        addresses: [address.text],
        ...assumedNote(address),
      });
    } else if (
      !told.some((entry) => entry.name === name && entry.addresses.length > 0) &&
      !known.addresses.includes(address.text)
    ) {
      known.addresses.push(address.text);
      Object.assign(known, assumedNote(address));
    }
  }
  for (const { out } of facts.routes) {
    if (out !== null && !made.has(out)) made.set(out, { name: interfaceNameOf(out), addresses: [] });
  }
  return [...made.values()];
}

/** Notes that an address is assumed because the text only has its subnet. */
function assumedNote({ text, subnet, assumed }: { text: string; subnet: string; assumed: boolean }) {
  return assumed ? { note: `${text} is assumed: the text tells only the subnet ${subnet}` } : {};
}

/** A bundle's members and a tagged interface's parent, if reported (rule 15). */
function buildOn(fact: InterfaceFact, made: Map<string, InterfaceDocument>) {
  const { name, kind, members, minUp, lacp, parent, vlan } = fact;
  const own = made.get(name);
  if (!own) return;
  const bare = members.filter((member) => made.get(member)?.addresses.length === 0);
  if (kind === "bundle" && bare.length > 0) {
    own.kind = "bundle";
    own.members = bare.map((member) => (made.get(member) as InterfaceDocument).name);
    if (minUp !== null && minUp > 1) own.minUp = Math.min(minUp, bare.length, 64);
    if (lacp !== null) own.lacp = lacp;
  }
  const below = parent === null ? undefined : made.get(parent);
  const carries = below && below.parent === undefined && below.kind !== "loopback" && below.kind !== "tunnel";
  if (carries && vlan !== null && vlan >= 1 && vlan <= 4094 && own.kind === undefined) {
    own.parent = below.name;
    own.vlan = vlan;
  }
}

/** Its virtual routers: equal ids and settings in both families are one; tracked items that do not exist are omitted.
 * */
function shareOn({ name, virtual }: InterfaceFact, made: Map<string, InterfaceDocument>) {
  const own = made.get(name);
  if (!own || virtual.length === 0) return;
  const one = new Map<string, Record<string, unknown> & { addresses: string[] }>();
  for (const { addresses, track, active: _active, ...settings } of virtual) {
    const tracked = track.flatMap(({ interface: port, lower }) => {
      const known = made.get(port);
      return known ? [{ interface: known.name, lower }] : [];
    });
    const key = JSON.stringify([settings, tracked]);
    const before = one.get(key);
    if (before) before.addresses.push(...addresses);
    else one.set(key, { ...settings, addresses: [...addresses], track: tracked });
  }
  own.virtual = [...one.values()];
}

function interfaceOf(entry: InterfaceFact, wanted: ReadonlySet<string>): InterfaceDocument {
  const addresses = entry.addresses.filter((text) => {
    const address = parseInterfaceAddress(text)?.address;
    return address && (!isIpv6LinkLocal(address) || wanted.has(formatAddress(address)));
  });
  return {
    name: interfaceNameOf(entry.name),
    ...(entry.kind !== null && kinds.has(entry.kind) && entry.kind !== "ethernet"
      ? { kind: entry.kind }
      : {}),
    ...(entry.vrf !== null && entry.vrf !== "main" ? { vrf: entry.vrf } : {}),
    addresses,
    ...(entry.enabled === false ? { enabled: false } : {}),
    ...(entry.zone !== null ? { zone: entry.zone } : {}),
    ...(entry.hardware !== null ? { hardware: entry.hardware } : {}),
  };
}

/** Interfaces known from a route table only: its connected networks, with the own address of a local route. */
function fromRoutes({ routes }: DeviceFacts) {
  const found: { name: string; vrf: string; address: { text: string; subnet: string; assumed: boolean } }[] =
    [];
  for (const { to, out, vrf, source, via, discard, own: stated } of routes) {
    if (!isAttached({ to, out, vrf, source, via, discard }) || out === null) continue;
    const subnet = parsePrefix(to);
    if (!subnet || isIpv6LinkLocal(subnet.address)) continue;
    const local = routes.find(
      (route) =>
        route.source === "local" &&
        route.vrf === vrf &&
        (route.out === out || route.out === null) &&
        within(subnet, route.to),
    );
    const told = parseAddress(stated ?? "");
    const isOwn = told !== null && containsAddress(subnet, told);
    const own = isOwn ? told : local ? parsePrefix(local.to)?.address : freeAddress(subnet, routes);
    if (own) {
      found.push({
        name: out,
        vrf,
        address: { text: `${formatAddress(own)}/${subnet.length}`, subnet: to, assumed: !local && !isOwn },
      });
    }
  }
  return found;
}

function within(subnet: Prefix, text: string): boolean {
  const prefix = parsePrefix(text);
  const whole = subnet.address.family === 4 ? 32 : 128;
  return prefix !== null && prefix.length === whole && containsAddress(subnet, prefix.address);
}

/** The first address of a subnet that is not a next hop; the only one if there is no choice. */
function freeAddress(subnet: Prefix, routes: readonly RouteFact[]): Address | null {
  const width = subnet.address.family === 4 ? 32 : 128;
  const hops = new Set(routes.map((route) => route.via));
  let address: Address | null = subnet.length >= width - 1 ? subnet.address : nextAddress(subnet.address);
  for (let n = 0; address && n < 1000; n++) {
    if (!containsAddress(subnet, address)) return null;
    if (!hops.has(formatAddress(address))) return address;
    address = nextAddress(address);
  }
  return null;
}
