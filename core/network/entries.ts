import {
  type Address,
  containsAddress,
  defaultPrefix,
  type Family,
  hostPrefix,
  isIpv6LinkLocal,
  type Prefix,
  parseAddress,
  parsePrefix,
  prefixOf,
  sameAddress,
  samePrefix,
  subnetAddressKind,
} from "../address/index.ts";
import type { Device, Plan, StaticRoute } from "../plan/index.ts";
import type { Ports } from "./interfaces.ts";
import {
  actionCodes,
  addressAt,
  type DeviceRecord,
  endsOf,
  type Fault,
  resolveCodes,
  sourceCodes,
} from "./network.ts";

/** One candidate route before it is laid into columns. */
export interface Entry {
  table: number;
  vrf: number;
  source: number;
  protocol: string | null;
  to: Prefix;
  via: Address | null;
  out: number;
  peer: number;
  distance: number;
  metric: number;
  resolve: number;
  action: number;
  toVrf: number;
  watch: number;
  fault: Fault;
  /** Usable only while the neighbour answers. */
  needsAnswer: boolean;
  order: number;
  /** Whether `via` must be looked up in the table. */
  recursive: boolean;
}

type Settled = Pick<
  DeviceRecord,
  "role" | "profile" | "forwards" | "vrfs" | "policyTables" | "firstInterface" | "endInterface" | "firstWatch"
>;

/** All candidates of one device (rules 3.1 to 3.4, 7.3, 7.4, 8), with the faults that no outage changes (rule 4). */
export function entriesOf(plan: Plan, device: Device, settled: Settled, ports: Ports): Entry[] {
  const entries: Entry[] = [...attached(settled, ports)];
  const attachments = attachmentsOf(ports, settled);
  const { profile } = settled;
  const hasDistance = profile.staticDistance !== null;
  const watchIndex = (id: string | undefined) =>
    id === undefined ? -1 : settled.firstWatch + device.watches.findIndex((watch) => watch.id === id);
  const outIndex = (name: string | undefined) =>
    name === undefined ? -1 : (ports.interfaceIndex.get(`${device.id}/${name}`) as number);

  const vrfIndex = (name: string | undefined) => settled.vrfs.indexOf(name ?? "main");
  const written = (route: StaticRoute, table: number, vrf: number, order: number): Entry => {
    const to = parsePrefix(route.to) as Prefix;
    const offered = route.viaFrom
      ? offeredGateway(device, route.viaFrom, to.address.family, settled, ports, plan)
      : null;
    const via = offered ? offered.via : route.via ? parseAddress(route.via) : null;
    const action = route.discard
      ? actionCodes[route.discard]
      : route.toVrf
        ? actionCodes.vrf
        : actionCodes.forward;
    const entry: Entry = {
      table,
      vrf,
      source: sourceCodes.static,
      protocol: null,
      to,
      via,
      out: outIndex(route.out ?? route.viaFrom),
      peer: offered?.peer ?? -1,
      distance: hasDistance ? (route.distance ?? (profile.staticDistance as number)) : -1,
      metric: route.metric ?? 0,
      resolve: resolveCodes[route.resolve ?? profile.resolve],
      action,
      toVrf: route.toVrf ? vrfIndex(route.toVrf) : -1,
      watch: watchIndex(route.watch),
      fault: route.enabled === false ? "disabled" : "",
      needsAnswer: false,
      order,
      recursive: via !== null && route.out === undefined && !offered,
    };
    if (offered && !offered.via) entry.fault ||= "no-gateway-offered";
    entry.metric += addedMetric(entry, settled, ports, attachments);
    // What was handed out is on the link, whatever the addresses say.
    entry.fault ||= faultOf(entry, Boolean(route.onLink) || offered !== null, settled, ports, attachments);
    return entry;
  };

  for (const [i, route] of device.routes.entries()) {
    entries.push(written(route, vrfIndex(route.vrf), vrfIndex(route.vrf), i));
  }
  for (const [i, route] of device.learned.entries()) {
    const { protocol, lostAfterMs: _lost, distance, ...rest } = route;
    const entry = written(rest, vrfIndex(route.vrf), vrfIndex(route.vrf), i);
    entry.source = sourceCodes.learned;
    entry.protocol = protocol;
    entry.distance = hasDistance ? (distance ?? 110) : -1;
    if (entry.fault === "interface-required" || entry.fault === "interface-next-hop-refused")
      entry.fault = "";
    entry.needsAnswer = entry.via !== null;
    entries.push(entry);
  }
  entries.push(...handedOut(device, settled, ports, plan));
  entries.push(...system(settled, ports, plan));
  for (const table of settled.policyTables) {
    const routes = device.policyTables.find((t) => t.name === table.name)?.routes ?? [];
    // Routes of a policy table stand in that table alone; their next hops resolve in its VRF.
    entries.push(...routes.map((route, i) => written(route, table.table, table.vrf, i)));
  }
  if (profile.secondDefault === "refuse") refuseSecondDefaults(entries);
  if (profile.deadGatewayMs) watchGateways(entries);
  return entries;
}

function plainEntry(): Omit<Entry, "table" | "vrf" | "source" | "to" | "out"> {
  return {
    protocol: null,
    via: null,
    peer: -1,
    distance: 0,
    metric: 0,
    resolve: resolveCodes.any,
    action: actionCodes.forward,
    toVrf: -1,
    watch: -1,
    fault: "",
    needsAnswer: false,
    order: 0,
    recursive: false,
  };
}

/** Rules 3.1 and 6.1: a local route for every address, and a connected one for every subnet of an interface. */
function attached(settled: Settled, ports: Ports): Entry[] {
  const { interfaces, addresses } = ports;
  const hasDistance = settled.profile.staticDistance !== null;
  const entries: Entry[] = [];
  for (let i = settled.firstInterface; i < settled.endInterface; i++) {
    const subnets: Prefix[] = [];
    for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++) {
      const address = addressAt(addresses.words, addresses.family[k] as Family, k);
      const subnet = prefixOf(address, addresses.length[k]);
      const vrf = interfaces.vrf[i];
      const base = {
        ...plainEntry(),
        table: vrf,
        vrf,
        out: i,
        distance: hasDistance ? 0 : -1,
        metric: settled.profile.addInterfaceMetric ? interfaces.metric[i] : 0,
        order: k - interfaces.addressStart[settled.firstInterface],
      };
      entries.push({ ...base, source: sourceCodes.local, to: hostPrefix(address) });
      // Several addresses of one subnet on one interface are one connected route.
      if (subnets.some((known) => samePrefix(known, subnet))) continue;
      subnets.push(subnet);
      entries.push({ ...base, source: sourceCodes.connected, to: subnet });
    }
  }
  return entries;
}

interface Attachment {
  readonly interface: number;
  readonly vrf: number;
  readonly subnet: Prefix;
  readonly address: Address;
}

/** What a device is attached to. */
function attachmentsOf(ports: Ports, { firstInterface, endInterface }: Settled): Attachment[] {
  const { interfaces, addresses } = ports;
  const list: Attachment[] = [];
  for (let k = interfaces.addressStart[firstInterface]; k < interfaces.addressStart[endInterface]; k++) {
    const address = addressAt(addresses.words, addresses.family[k] as Family, k);
    const i = addresses.interface[k];
    list.push({
      interface: i,
      vrf: interfaces.vrf[i],
      subnet: prefixOf(address, addresses.length[k]),
      address,
    });
  }
  return list;
}

/** The attachment whose subnet holds the address, the longest where several do; null for none. */
function nearest(attachments: readonly Attachment[], vrf: number, address: Address): Attachment | null {
  let best: Attachment | null = null;
  for (const one of attachments) {
    if (one.vrf !== vrf || !containsAddress(one.subnet, address)) continue;
    if (!best || one.subnet.length > best.subnet.length) best = one;
  }
  return best;
}

export function subnetsOf(ports: Pick<Ports, "interfaces" | "addresses">, i: number): Prefix[] {
  const { interfaces, addresses } = ports;
  const subnets: Prefix[] = [];
  for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++) {
    subnets.push(prefixOf(addressAt(addresses.words, addresses.family[k] as Family, k), addresses.length[k]));
  }
  return subnets;
}

function addedMetric(
  entry: Entry,
  settled: Settled,
  ports: Ports,
  attachments: readonly Attachment[],
): number {
  if (!settled.profile.addInterfaceMetric) return 0;
  const { out, via, vrf } = entry;
  const leaves = out >= 0 ? out : via ? (nearest(attachments, vrf, via)?.interface ?? -1) : -1;
  return leaves >= 0 ? ports.interfaces.metric[leaves] : 0;
}

/** Rules 4.1, 4.2, 4.4, 4.5, 4.8: what no outage changes. */
function faultOf(
  entry: Entry,
  onLink: boolean,
  settled: Settled,
  ports: Ports,
  attachments: readonly Attachment[],
): Fault {
  const { profile } = settled;
  const { interfaces } = ports;
  const family = entry.to.address.family;
  if (settled.role !== "host" && !settled.forwards[family]) return "forwarding-off";
  if (entry.action !== actionCodes.forward) return "";
  const { via, out } = entry;
  if (via) {
    // A link-local address may stand on every link anew: it is the device's own only on the interface named.
    const own = attachments.some(
      (a) =>
        a.vrf === entry.vrf && sameAddress(a.address, via) && !(isIpv6LinkLocal(via) && out !== a.interface),
    );
    if (own) return "next-hop-own-address";
    if (isIpv6LinkLocal(via)) return out < 0 ? "link-local-without-interface" : "";
    const near = nearest(attachments, entry.vrf, via);
    const kind = near && subnetAddressKind(near.subnet, via);
    // The first address of an IPv6 subnet is every forwarding router's own there; to a host it is a good next hop.
    if (kind && via.family === 6 && settled.role !== "host") return "next-hop-own-address";
    if (kind && via.family === 4 && !onLink)
      return kind === "network" ? "next-hop-network-address" : "next-hop-broadcast-address";
    if (
      out >= 0 &&
      !onLink &&
      !attachments.some((a) => a.interface === out && containsAddress(a.subnet, via))
    ) {
      return "next-hop-not-on-interface";
    }
    if (out < 0 && profile.interfaceRequired) return "interface-required";
    return "";
  }
  if (profile.interfaceNextHop === "refuse") return "interface-next-hop-refused";
  if (profile.interfaceNextHop === "point-to-point" && !interfaces.pointToPoint[out]) {
    return "interface-next-hop-refused";
  }
  return "";
}

/** Who hands a gateway out, the nearest to the internet first. */
const offering = ["provider", "internet", "cloud", "router", "firewall"];

/**
 * Rules 3.4 and 4.9: the gateway that is handed out on an interface: the forwarding device at the far end of the link.
 * `via` null and `peer` -1 where nothing there hands one out in the family.
 */
function offeredGateway(
  device: Device,
  name: string,
  family: Family,
  settled: Settled,
  ports: Ports,
  plan: Plan,
): { via: Address | null; peer: number } {
  const n = device.interfaces.findIndex((port) => port.name === name);
  const from = device.interfaces[n]?.gatewayFrom;
  if (!from || family !== (from === "ra" ? 6 : 4)) return { via: null, peer: -1 };
  const i = settled.firstInterface + n;
  const far = farEnds(ports, i)
    .map((peer) => ({ peer, rank: offering.indexOf(plan.devices[ports.interfaces.device[peer]].role) }))
    .filter(({ peer, rank }) => rank >= 0 && firstAddress(ports, peer, family))
    .sort((a, b) => a.rank - b.rank)[0];
  const own = subnetsOf(ports, i).filter((subnet) => subnet.address.family === family);
  return far
    ? { via: gatewayAddress(ports, far.peer, family, own), peer: far.peer }
    : { via: null, peer: -1 };
}

/** Rule 3.4: a default through the gateway that is handed out. */
function handedOut(device: Device, settled: Settled, ports: Ports, plan: Plan): Entry[] {
  const entries: Entry[] = [];
  for (const [n, port] of device.interfaces.entries()) {
    if (!port.gatewayFrom) continue;
    const i = settled.firstInterface + n;
    const family: Family = port.gatewayFrom === "ra" ? 6 : 4;
    const { via, peer } = offeredGateway(device, port.name, family, settled, ports, plan);
    const vrf = ports.interfaces.vrf[i];
    entries.push({
      ...plainEntry(),
      table: vrf,
      vrf,
      source: sourceCodes.handedOut,
      protocol: port.gatewayFrom,
      to: defaultPrefix(family),
      via,
      out: i,
      peer,
      distance: settled.profile.staticDistance === null ? -1 : settled.profile.handedOutDistance,
      metric: settled.profile.addInterfaceMetric ? ports.interfaces.metric[i] : 0,
      fault: via
        ? settled.role !== "host" && !settled.forwards[family]
          ? "forwarding-off"
          : ""
        : "no-gateway-offered",
      order: n,
    });
  }
  return entries;
}

function farEnds(ports: Ports, i: number): number[] {
  const link = ports.interfaces.link[i];
  if (link < 0) return [];
  return Array.from(endsOf(ports.links, link)).filter((end) => end !== i);
}

function firstAddress(ports: Ports, i: number, family: Family): Address | null {
  return gatewayAddress(ports, i, family, []);
}

/** The address of an interface in one of the subnets; where none fits, its first of the family. */
function gatewayAddress(ports: Ports, i: number, family: Family, subnets: readonly Prefix[]): Address | null {
  let first: Address | null = null;
  for (let k = ports.interfaces.addressStart[i]; k < ports.interfaces.addressStart[i + 1]; k++) {
    if (ports.addresses.family[k] !== family) continue;
    const address = addressAt(ports.addresses.words, family, k);
    if (subnets.some((subnet) => containsAddress(subnet, address))) return address;
    first ??= address;
  }
  return first;
}

/** Rules 7.3, 7.4 and 8: a default towards the internet, and on the internet what providers announce. */
function system(settled: Settled, ports: Ports, plan: Plan): Entry[] {
  const { role } = settled;
  const entries: Entry[] = [];
  for (let i = settled.firstInterface; i < settled.endInterface; i++) {
    for (const peer of farEnds(ports, i)) {
      const other = plan.devices[ports.interfaces.device[peer]];
      const base = {
        ...plainEntry(),
        table: ports.interfaces.vrf[i],
        vrf: ports.interfaces.vrf[i],
        out: i,
        peer,
        needsAnswer: true,
        order: entries.length,
      };
      const subnets = subnetsOf(ports, i);
      const via = (family: Family) => gatewayAddress(ports, peer, family, subnets);
      if ((role === "provider" || role === "cloud") && other.role === "internet") {
        for (const family of [4, 6] as const) {
          entries.push({
            ...base,
            source: sourceCodes.system,
            protocol: "system",
            to: defaultPrefix(family),
            via: via(family),
            distance: 254,
            needsAnswer: false,
          });
        }
      }
      if (role === "internet" && other.role === "provider") {
        for (const text of other.announces ?? []) {
          const to = parsePrefix(text) as Prefix;
          entries.push({
            ...base,
            source: sourceCodes.announced,
            protocol: "announced",
            to,
            via: via(to.address.family),
            distance: 20,
          });
        }
      }
    }
  }
  // Where several providers announce one prefix, the earlier in the document is taken (rule 7.4).
  const rank = (entry: Entry) => ports.interfaces.device[entry.peer];
  return entries.sort((a, b) => rank(a) - rank(b)).map((entry, order) => ({ ...entry, order }));
}

/**
 * Profile field secondDefault: the first default of a distance decides the interface, later ones are refused. What
 * the installation or a provider handed out was there before anything was written by hand.
 */
function refuseSecondDefaults(entries: readonly Entry[]) {
  const first = new Map<string, Entry>();
  const writtenOrHandedOut: number[] = [sourceCodes.static, sourceCodes.handedOut, sourceCodes.learned];
  const handedOutFirst = [
    ...entries.filter((entry) => entry.source === sourceCodes.handedOut),
    ...entries.filter((entry) => entry.source !== sourceCodes.handedOut),
  ];
  for (const entry of handedOutFirst) {
    if (entry.to.length !== 0 || !writtenOrHandedOut.includes(entry.source) || entry.fault) continue;
    if (entry.action !== actionCodes.forward) continue;
    const key = `${entry.table} ${entry.to.address.family} ${entry.distance}`;
    const earlier = first.get(key);
    if (!earlier) first.set(key, entry);
    else if (earlier.out !== entry.out) entry.fault = "second-default-refused";
  }
}

/** Rule 7.1: a sender with several gateways to one destination notices when one no longer answers. */
function watchGateways(entries: Entry[]) {
  const gateways = new Map<string, Entry[]>();
  for (const entry of entries) {
    if (!entry.via || entry.fault) continue;
    const key = `${entry.table} ${entry.to.address.family} ${entry.to.address.w0} ${entry.to.address.w1} ${entry.to.address.w2} ${entry.to.address.w3}/${entry.to.length}`;
    gateways.set(key, [...(gateways.get(key) ?? []), entry]);
  }
  for (const list of gateways.values()) {
    if (list.length > 1) for (const entry of list) entry.needsAnswer = true;
  }
}
