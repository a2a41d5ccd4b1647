import {
  type Address,
  containsAddress,
  type Family,
  formatAddress,
  formatPrefix,
  isLinkLocal,
  type Prefix,
  parseAddress,
  subnetAddressKind,
} from "../address/index.ts";
import { addTo, onceFor } from "../collections/index.ts";
import type { Device } from "../plan/index.ts";
import { attachmentsOf } from "./attachments.ts";
import { interfaceWritten } from "./elements.ts";
import { addressAt, endsOf, type Network } from "./network.ts";
import type { Physical } from "./physical.ts";

/** The longest prefixes that can be an edge network, by family (rule 2.8): hosts need free addresses. */
const LONGEST: Record<Family, number> = { 4: 29, 6: 125 };

/** A subnet on which hosts may be that the plan does not draw (rule 2.8). */
export interface EdgeNetwork {
  readonly prefix: Prefix;
  /** The interface of a router, firewall or cloud that is attached to it. */
  readonly interface: number;
  /** Addresses at its start that no host may use (rule 8). */
  readonly reserved: number;
}

const RESERVED_IN_CLOUDS = 3;

/** How many addresses at the start of each subnet a device keeps for itself (rule 8). */
export function reservedBy({ role, reserved }: Device): number {
  return role === "cloud" ? (reserved ?? RESERVED_IN_CLOUDS) : 0;
}

const gatewayRoles = new Set(["router", "firewall", "cloud"]);

/** Whether hosts that are not drawn are taken to answer (rule 2.8). */
export function assumesHosts({ plan }: Network): boolean {
  return plan.assume?.hosts === "answer";
}

/** Edge networks by the link that they are on, and those of interfaces that no link names by their interface. */
const edgeNetworks = onceFor((network: Network) => {
  const { interfaces, links, devices, plan } = network;
  const onLink = new Map<number, EdgeNetwork[]>();
  const alone = new Map<number, EdgeNetwork[]>();
  for (const { prefix, interface: i, device } of attachmentsOf(network)) {
    const { kind } = interfaceWritten(network, i);
    if (!gatewayRoles.has(devices[device].role) || (kind ?? "ethernet") !== "ethernet") continue;
    if (!interfaces.enabled[i] || isLinkLocal(prefix.address)) continue;
    if (prefix.length > LONGEST[prefix.address.family]) continue;
    const link = interfaces.link[i];
    const medium = link < 0 ? null : links.medium[link];
    const written = plan.links[link]?.medium;
    if (medium === null ? !interfaces.assumedUp[i] : written !== "cable" && written !== "switch") continue;
    const edge = { prefix, interface: i, reserved: reservedBy(plan.devices[device]) };
    if (medium === null) addTo(alone, i, edge);
    else addTo(onLink, link, edge);
  }
  return { onLink, alone };
});

/** The edge networks that what leaves by an interface comes to. */
function edgesAt(network: Network, out: number): readonly EdgeNetwork[] {
  const link = network.interfaces.link[out];
  const { onLink, alone } = edgeNetworks(network);
  return (link < 0 ? alone.get(out) : onLink.get(link)) ?? [];
}

/** Addresses that something of the plan has or names, up or down, in text. */
const takenAddresses = onceFor((network: Network): ReadonlySet<string> => {
  const taken = new Set<string>();
  const { virtuals, plan, watches, candidates } = network;
  for (const { address } of attachmentsOf(network)) taken.add(formatAddress(address));
  for (const virtual of virtuals) for (const address of virtual.addresses) taken.add(formatAddress(address));
  for (let c = 0; c < candidates.count; c++)
    if (candidates.hasVia[c])
      taken.add(formatAddress(addressAt(candidates.via, candidates.family[c] as Family, c)));
  for (const { peer } of watches) if (peer) taken.add(formatAddress(peer));
  for (const device of plan.devices) {
    const translated = [
      ...device.sourceNat.map(({ to }) => to),
      ...(device.destNat ?? []).map(({ to }) => to),
    ];
    for (const text of translated) {
      const address = parseAddress(text);
      if (address) taken.add(formatAddress(address));
    }
  }
  return taken;
});

/** Whether a host that the plan does not draw can have an address of an edge network. */
function isFree(network: Network, { prefix, reserved }: EdgeNetwork, address: Address): boolean {
  if (subnetAddressKind(prefix, address) !== null || isLinkLocal(address)) return false;
  const first = prefix.address;
  const place = address.family === 4 ? address.w0 - first.w0 : address.w3 - first.w3;
  const inFirstWord = address.family === 4 || (address.w1 === first.w1 && address.w2 === first.w2);
  if (inFirstWord && place >= 0 && place <= reserved && reserved > 0) return false;
  if (takenAddresses(network).has(formatAddress(address))) return false;
  // A longer connected prefix elsewhere takes it away.
  return !connectedPrefixes(network).some(
    (other) => other.length > prefix.length && containsAddress(other, address),
  );
}

const connectedPrefixes = onceFor((network: Network): readonly Prefix[] => {
  const all = new Map(attachmentsOf(network).map(({ prefix }) => [formatPrefix(prefix), prefix]));
  return [...all.values()];
});

/** The edge network whose assumed host answers for an address behind an interface; null if there is none. */
export function assumedHostAt(network: Network, out: number, address: Address): EdgeNetwork | null {
  if (!assumesHosts(network)) return null;
  return (
    edgesAt(network, out).find(
      (edge) => containsAddress(edge.prefix, address) && isFree(network, edge, address),
    ) ?? null
  );
}

/** The edge networks on which a host can have an address that the plan does not draw; none where hosts are not assumed. */
export function edgesOf(network: Network, address: Address): EdgeNetwork[] {
  if (!assumesHosts(network)) return [];
  const { onLink, alone } = edgeNetworks(network);
  const edges = [...onLink.values(), ...alone.values()].flat();
  return edges.filter((edge) => containsAddress(edge.prefix, address) && isFree(network, edge, address));
}

/** Where a packet of an assumed host comes in. */
export interface Entry {
  readonly device: number;
  readonly vrf: number;
  readonly arrivesBy: number;
}

/** Where a packet from an assumed host enters: at the owner of an address in its subnet; else at its segment's gateway:
 * the Active virtual router, the cloud, or each forwarding device. */
export function entriesFrom(
  state: Pick<Physical, "network" | "interfaceAlive" | "roles">,
  out: number,
  edge: EdgeNetwork,
  to: Address,
): Entry[] {
  const { interfaces } = state.network;
  return portsFrom(state, out, edge, to).map((i) => ({
    device: interfaces.device[i],
    vrf: interfaces.vrf[i],
    arrivesBy: i,
  }));
}

function portsFrom(
  state: Pick<Physical, "network" | "interfaceAlive" | "roles">,
  out: number,
  { prefix }: EdgeNetwork,
  to: Address,
): readonly number[] {
  const { network, interfaceAlive, roles } = state;
  const { interfaces, links, devices, virtuals, addresses } = network;
  const link = interfaces.link[out];
  const ends = (
    link < 0 ? (unlinkedPrefixes(network).get(formatPrefix(prefix)) ?? []) : Array.from(endsOf(links, link))
  ).filter((i) => interfaceAlive[i]);
  const inPrefix = (i: number, is: (address: Address) => boolean) => {
    for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++)
      if (is(addressAt(addresses.words, addresses.family[k] as Family, k))) return true;
    return false;
  };
  const active = virtuals.filter(
    (v) => ends.includes(v.interface) && v.family === to.family && roles.virtualActive[v.index],
  );
  if (containsAddress(prefix, to)) {
    const text = formatAddress(to);
    const owner = ends.find((i) => inPrefix(i, (own) => formatAddress(own) === text));
    const virtual = active.find((v) => v.addresses.some((own) => formatAddress(own) === text));
    return virtual ? [virtual.interface] : owner === undefined ? [] : [owner];
  }
  const shared = active.find((v) => v.addresses.some((own) => containsAddress(prefix, own)));
  if (shared) return [shared.interface];
  const roleOf = (i: number) => devices[interfaces.device[i]];
  const forwarding = ends.filter(
    (i) =>
      roleOf(i).role !== "host" &&
      roleOf(i).forwards[to.family] &&
      inPrefix(i, (own) => containsAddress(prefix, own)),
  );
  const cloud = forwarding.find((i) => roleOf(i).role === "cloud");
  return cloud === undefined ? forwarding : [cloud];
}

/** Interfaces of different devices that are up in one subnet though no link joins them (rule 2.8), by the subnet in text. */
export const undrawnSegments = onceFor((network: Network): ReadonlyMap<string, readonly number[]> => {
  const { device } = network.interfaces;
  return new Map(
    [...unlinkedPrefixes(network)].filter(([, ports]) => new Set(ports.map((i) => device[i])).size > 1),
  );
});

const onUndrawnSegment = onceFor(
  (network: Network): ReadonlySet<number> => new Set([...undrawnSegments(network).values()].flat()),
);

/** Whether an interface is one of those. */
export function isUndrawnSegment(network: Network, i: number): boolean {
  return onUndrawnSegment(network).has(i);
}

/** The interfaces that are up though no link names them, by the prefixes of their subnets in text (rule 2.8). */
const unlinkedPrefixes = onceFor((network: Network): ReadonlyMap<string, number[]> => {
  const found = new Map<string, number[]>();
  for (const { prefix, interface: i } of attachmentsOf(network))
    if (network.interfaces.assumedUp[i] && !isLinkLocal(prefix.address))
      addTo(found, formatPrefix(prefix), i);
  return found;
});
