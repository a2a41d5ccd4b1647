import {
  type Address,
  compareAddress,
  containsAddress,
  type Family,
  parseAddress,
  parseInterfaceAddress,
  prefixOf,
} from "../address/index.ts";
import { addTo, onceFor } from "../collections/index.ts";
import type { Device, Interface, Plan } from "../plan/index.ts";
import { compileBundles } from "./bundles.ts";
import {
  type Addresses,
  addressAt,
  type BundleRecord,
  type Interfaces,
  type Links,
  mediumCodes,
  type TunnelRecord,
} from "./network.ts";

export interface Ports {
  interfaces: Interfaces;
  interfaceIndex: Map<string, number>;
  addresses: Addresses;
  links: Links;
  tunnels: TunnelRecord[];
  bundles: BundleRecord[];
}

/** Interfaces, their addresses, and what joins them. `vrfNames` are the devices' VRFs, "main" first. */
export function compilePorts(plan: Plan, vrfNames: readonly (readonly string[])[]): Ports {
  const entries: PortEntry[] = [];
  const interfaceIndex = new Map<string, number>();
  for (const [d, device] of plan.devices.entries()) {
    for (const entry of device.interfaces) {
      interfaceIndex.set(`${device.id}/${entry.name}`, entries.length);
      entries.push({ d, device, entry });
    }
  }
  const interfaces = portColumns(entries, interfaceIndex, vrfNames);
  for (const [i, parent] of interfaces.parent.entries()) if (parent >= 0) addTo(interfaces.tagged, parent, i);
  const addresses = compileAddresses(
    entries.map(({ entry }) => entry.addresses),
    interfaces.addressStart,
  );

  const ends = plan.links.map((link) => link.ends.map((end) => interfaceIndex.get(end) as number));
  for (const [l, list] of ends.entries()) for (const i of list) interfaces.link[i] = l;

  const paired = pairTunnels(entries, vrfNames, interfaces, addresses, ends);
  const joined: number[][] = [];
  for (const tunnel of paired) {
    if (tunnel.peer < 0 || interfaces.link[tunnel.interface] >= 0 || interfaces.link[tunnel.peer] >= 0)
      continue;
    interfaces.link[tunnel.interface] = interfaces.link[tunnel.peer] = ends.length + joined.length;
    joined.push([tunnel.interface, tunnel.peer]);
  }
  const { bundles, joined: bundled } = compileBundles(
    {
      ...interfaces,
      entries,
      ends,
      portOf: (d, name) => interfaceIndex.get(`${plan.devices[d].id}/${name}`) as number,
    },
    ends.length + joined.length,
  );
  if (plan.assume?.unlinked === "up") markUnlinked(entries, interfaces);
  const all = [...ends, ...joined, ...bundled];
  const firstBundled = ends.length + joined.length;
  const isTunnel = (list: number[]) => list.length > 0 && list.every((i) => interfaces.tunnel[i] >= 0);
  const links: Links = {
    count: all.length,
    planned: plan.links.length,
    ids: plan.links.map((link) => link.id),
    medium: Uint8Array.from(all, (list, l) =>
      l >= firstBundled
        ? mediumCodes.bundle
        : isTunnel(list)
          ? mediumCodes.tunnel
          : mediumCodes[mediumOf(plan, l, list, interfaces)],
    ),
    hub: Int32Array.from(all, (_, l) => interfaceIndex.get(plan.links[l]?.hub ?? "") ?? -1),
    endStart: starts(all),
    ends: Int32Array.from(all.flat()),
    riders: ridersOf(plan),
    crossed: plan.links.flatMap((link, l) => {
      const tags = new Set(ends[l].map((i) => interfaces.vlan[i]));
      return link.medium === "cable" && tags.size > 1 ? [l] : [];
    }),
  };
  return { interfaces, interfaceIndex, addresses, links, tunnels: paired, bundles };
}

/** How a link shows failures: a multipoint link like a circuit, a cable of a cloud network like a switch, because
 * attached devices keep carrier when others fail (rules 2.7 and 8). */
function mediumOf(
  { links, devices }: Plan,
  l: number,
  ends: readonly number[],
  { device }: Pick<Interfaces, "device">,
): "cable" | "switch" | "circuit" {
  const { medium } = links[l];
  if (medium === "multipoint") return "circuit";
  const ofCloud = medium === "cable" && ends.some((i) => devices[device[i]].role === "cloud");
  return ofCloud ? "switch" : medium;
}

interface PortEntry {
  readonly d: number;
  readonly device: Device;
  readonly entry: Interface;
}

/** Ethernet and serial interfaces with an address that no link names, nor a bundle or a tagged interface on them (rule 2.8). */
function markUnlinked(
  entries: readonly PortEntry[],
  { link, memberOf, parent, tagged, assumedUp }: Ports["interfaces"],
) {
  for (const [i, { entry }] of entries.entries()) {
    const isPort = (entry.kind ?? "ethernet") === "ethernet" || entry.kind === "serial";
    if (!isPort || link[i] >= 0 || memberOf[i] >= 0 || parent[i] >= 0) continue;
    const above = tagged.get(i) ?? [];
    if (above.some((child) => link[child] >= 0)) continue;
    if ([i, ...above].some((one) => entries[one].entry.addresses.length > 0)) assumedUp[i] = 1;
  }
}

/** Properties of each interface alone; relations to others are filled in later. */
function portColumns(
  entries: readonly PortEntry[],
  interfaceIndex: ReadonlyMap<string, number>,
  vrfNames: readonly (readonly string[])[],
) {
  const count = entries.length;
  const int = () => new Int32Array(count);
  const byte = () => new Uint8Array(count);
  const columns = {
    count,
    names: entries.map(({ entry }) => entry.name),
    zones: entries.map(({ entry }) => entry.zone ?? null),
    device: int(),
    vrf: int(),
    pointToPoint: byte(),
    loopback: byte(),
    enabled: byte(),
    proxyArp: byte(),
    assumedUp: byte(),
    metric: new Float64Array(count),
    link: int().fill(-1),
    tunnel: int().fill(-1),
    bundle: int().fill(-1),
    memberOf: int().fill(-1),
    parent: int(),
    vlan: int(),
    tagged: new Map<number, number[]>(),
    addressStart: new Int32Array(count + 1),
  };
  for (let i = 0; i < count; i++) {
    const { d, device, entry } = entries[i];
    columns.device[i] = d;
    columns.vrf[i] = vrfNames[d].indexOf(entry.vrf ?? "main");
    columns.pointToPoint[i] = Number(entry.kind === "serial" || entry.kind === "tunnel");
    columns.loopback[i] = Number(entry.kind === "loopback");
    columns.enabled[i] = Number(entry.enabled !== false);
    columns.proxyArp[i] = Number(entry.proxyArp === true);
    columns.metric[i] = entry.metric ?? 0;
    columns.vlan[i] = entry.vlan ?? 0;
    columns.parent[i] =
      entry.parent === undefined ? -1 : (interfaceIndex.get(`${device.id}/${entry.parent}`) ?? -1);
  }
  return columns;
}

/** For each link that others ride on, all that do, whether straight or by others (rule 16.1). */
function ridersOf(plan: Plan): Map<number, number[]> {
  const riders = new Map<number, number[]>();
  if (!plan.links.some((link) => link.over?.length)) return riders;
  const numbers = new Map(plan.links.map((link, l) => [link.id, l]));
  for (const [l, link] of plan.links.entries()) {
    const under = new Set<number>();
    const open = [...(link.over ?? [])];
    for (let id = open.pop(); id !== undefined; id = open.pop()) {
      const at = numbers.get(id);
      if (at === undefined || at === l || under.has(at)) continue;
      under.add(at);
      open.push(...(plan.links[at].over ?? []));
    }
    for (const at of under) addTo(riders, at, l);
  }
  return riders;
}

/** Tunnels with an underlay, each with its far end if it has one. Writes their numbers into the interfaces' column. */
function pairTunnels(
  entries: readonly { d: number; entry: Interface }[],
  vrfNames: readonly (readonly string[])[],
  interfaces: Interfaces,
  addresses: Addresses,
  ends: readonly number[][],
): TunnelRecord[] {
  const tunnels: TunnelRecord[] = [];
  for (const [i, { d, entry }] of entries.entries()) {
    if (entry.kind !== "tunnel" || !entry.underlay) continue;
    const to = parseAddress(entry.underlay.to);
    if (!to) continue;
    interfaces.tunnel[i] = tunnels.length;
    tunnels.push({
      index: tunnels.length,
      interface: i,
      peer: -1,
      to,
      from: entry.underlay.from === undefined ? null : parseAddress(entry.underlay.from),
      vrf: Math.max(0, vrfNames[d].indexOf(entry.underlay.vrf ?? "main")),
      keepaliveMs: entry.underlay.keepaliveMs,
      failAfter: entry.underlay.failAfter,
      accepted: true,
    });
  }
  if (tunnels.length === 0) return tunnels;
  const owners = new Owners(interfaces, addresses);
  /** Tunnels by the device that they stand on and the one that owns the address they lead to. */
  const between = new Map<string, TunnelRecord[]>();
  for (const tunnel of tunnels) {
    for (const far of owners.of(tunnel.to)) {
      addTo(between, `${interfaces.device[tunnel.interface]} ${far}`, tunnel);
    }
  }
  return tunnels.map((tunnel) => {
    const own = interfaces.device[tunnel.interface];
    const matching = [...owners.of(tunnel.to)].flatMap((far) =>
      far === own ? [] : (between.get(`${far} ${own}`) ?? []),
    );
    const peer = peerOf(tunnel, matching, interfaces, addresses, ends);
    const far = peer < 0 ? -1 : interfaces.tunnel[peer];
    const from = tunnel.from ?? (far < 0 ? null : tunnels[far].to);
    return { ...tunnel, peer, from, accepted: far < 0 || facesEachOther({ ...tunnel, from }, tunnels[far]) };
  });
}

/** Whether the packets of one end are those that the other one expects (RFC 2003 and 2784: by both outer addresses). */
function facesEachOther(one: TunnelRecord, far: TunnelRecord): boolean {
  const same = (a: Address | null, b: Address) => a === null || compareAddress(a, b) === 0;
  return same(one.from, far.to) && same(far.from, one.to);
}

function starts(lists: readonly (readonly unknown[])[]): Int32Array {
  const start = new Int32Array(lists.length + 1);
  for (const [i, list] of lists.entries()) start[i + 1] = start[i] + list.length;
  return start;
}

function compileAddresses(lists: readonly (readonly string[])[], start: Int32Array): Addresses {
  start.set(starts(lists));
  const count = start[lists.length];
  const columns = {
    count,
    family: new Uint8Array(count),
    words: new Uint32Array(count * 4),
    length: new Uint8Array(count),
    interface: new Int32Array(count),
  };
  let k = 0;
  for (const [i, list] of lists.entries()) {
    for (const read of addressesRead(list)) {
      if (!read) continue;
      const { address, length } = read;
      columns.family[k] = address.family;
      columns.words[k * 4] = address.w0;
      columns.words[k * 4 + 1] = address.w1;
      columns.words[k * 4 + 2] = address.w2;
      columns.words[k * 4 + 3] = address.w3;
      columns.length[k] = length;
      columns.interface[k] = i;
      k++;
    }
  }
  return columns;
}

/** Addresses of an interface: edits leave the lists of most as they are. */
const addressesRead = onceFor((list: readonly string[]) => list.map(parseInterfaceAddress));

/** The far end of a tunnel: over a drawn link, else the tunnel of the device that owns the underlay's address. */
function peerOf(
  tunnel: TunnelRecord,
  facing: readonly TunnelRecord[],
  interfaces: Interfaces,
  addresses: Addresses,
  ends: readonly number[][],
): number {
  const link = interfaces.link[tunnel.interface];
  if (link >= 0) return ends[link].find((i) => i !== tunnel.interface) ?? -1;
  const matching = facing.filter((t) => interfaces.link[t.interface] < 0).sort((a, b) => a.index - b.index);
  const inOneSubnet = matching.find((t) => shareSubnet(t.interface, tunnel.interface, interfaces, addresses));
  return (inOneSubnet ?? matching[0])?.interface ?? -1;
}

/** Which devices own an address. */
class Owners {
  private readonly devices = new Map<string, Set<number>>();

  constructor(interfaces: Interfaces, addresses: Addresses) {
    for (let k = 0; k < addresses.count; k++) {
      const key = this.keyOf(addressAt(addresses.words, addresses.family[k] as Family, k));
      const device = interfaces.device[addresses.interface[k]];
      const known = this.devices.get(key);
      if (known) known.add(device);
      else this.devices.set(key, new Set([device]));
    }
  }

  of(address: Address): ReadonlySet<number> {
    return this.devices.get(this.keyOf(address)) ?? none;
  }

  private keyOf({ family, w0, w1, w2, w3 }: Address): string {
    return `${family} ${w0} ${w1} ${w2} ${w3}`;
  }
}

const none: ReadonlySet<number> = new Set();

function shareSubnet(a: number, b: number, interfaces: Interfaces, addresses: Addresses): boolean {
  for (let i = interfaces.addressStart[a]; i < interfaces.addressStart[a + 1]; i++) {
    const address = addressAt(addresses.words, addresses.family[i] as Family, i);
    const subnet = prefixOf(address, addresses.length[i]);
    for (let k = interfaces.addressStart[b]; k < interfaces.addressStart[b + 1]; k++) {
      if (containsAddress(subnet, addressAt(addresses.words, addresses.family[k] as Family, k))) return true;
    }
  }
  return false;
}
