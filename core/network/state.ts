import { type Address, type Family, prefixOf, sameAddress, subnetAddressKind } from "../address/index.ts";
import { type ElementNumber, elementParts } from "./elements.ts";
import { addressAt, mediumCodes, type Network } from "./network.ts";
import { onceFor } from "./once-for.ts";

/**
 * The network at one moment. What is really there (`alive`) is kept apart from what each device
 * believes (`up`): in a settled state they agree, in the middle of an outage they need not.
 * Every array holds one byte an item, 1 for yes. States are not changed once they are settled.
 */
export interface State {
  readonly network: Network;
  /** Failed elements, ascending. */
  readonly failed: readonly ElementNumber[];
  readonly deviceAlive: Uint8Array;
  readonly linkAlive: Uint8Array;
  /** Interfaces that could pass a packet now. */
  readonly interfaceAlive: Uint8Array;
  /** How each tunnel's underlay fares, as bits of `tunnelBits` (rule 2.5). */
  readonly tunnelPasses: Uint8Array;
  /** Interfaces as their own device sees them (rule 2). */
  readonly interfaceUp: Uint8Array;
  readonly watchUp: Uint8Array;
  /** Neighbours on which a candidate depends, as its device believes them to answer; by answer slot. */
  readonly answers: Uint8Array;
}

/** What is known of a tunnel's underlay: its outer packets arrive; both ends' do; they would lead into the tunnel itself. */
export const tunnelBits = { sends: 1, bothWays: 2, throughItself: 4 } as const;

const passing = tunnelBits.sends | tunnelBits.bothWays;

/** Every tunnel's underlay taken to deliver both ways. */
export function tunnelsPassing(network: Network): Uint8Array {
  return new Uint8Array(network.tunnels.length).fill(passing);
}

type Physical = Pick<
  State,
  "network" | "failed" | "deviceAlive" | "linkAlive" | "interfaceAlive" | "tunnelPasses"
>;

interface Untouched extends Pick<State, "deviceAlive" | "linkAlive" | "interfaceAlive"> {
  readonly enabled: Uint8Array;
}

/** What each network is with nothing failed; every scenario changes only what its failed elements touch. */
const untouchedOf = onceFor((network: Network): Untouched => {
  const { enabled } = network.interfaces;
  const linkAlive = new Uint8Array(network.links.count).fill(1);
  const passes = tunnelsPassing(network);
  const interfaceAlive = enabled.map((_, i) => Number(isUp(network, i, enabled, linkAlive, passes)));
  return { deviceAlive: new Uint8Array(network.devices.length).fill(1), linkAlive, enabled, interfaceAlive };
});

/** The physical side of a state: what has failed, and which interfaces are up by rules 2.1 to 2.5. */
export function physicalState(
  network: Network,
  failed: readonly ElementNumber[],
  tunnelPasses: Uint8Array,
): Physical {
  const { interfaces, links, devices } = network;
  const base = untouchedOf(network);
  // What nothing failed of is shared by all states: these are many, and most fail a link or an interface alone.
  let { deviceAlive, linkAlive, enabled, interfaceAlive } = base;
  const own = (list: Uint8Array, shared: Uint8Array) => (list === shared ? shared.slice() : list);
  const touched = new Set<number>();
  // With nothing failed all tunnels were taken to pass.
  for (let t = 0; t < tunnelPasses.length; t++)
    if (tunnelPasses[t] !== passing) touched.add(network.tunnels[t].interface);
  const touchLink = (link: number) => {
    for (let e = links.endStart[link]; e < links.endStart[link + 1]; e++) touched.add(links.ends[e]);
  };
  const strike = (i: number) => {
    enabled = own(enabled, base.enabled);
    enabled[i] = 0;
    touched.add(i);
    if (interfaces.link[i] >= 0) touchLink(interfaces.link[i]);
  };
  for (const element of failed) {
    const { kind, index } = elementParts(network, element);
    if (kind === "link") {
      linkAlive = own(linkAlive, base.linkAlive);
      linkAlive[index] = 0;
      touchLink(index);
    } else if (kind === "interface") strike(index);
    else if (kind === "device") {
      deviceAlive = own(deviceAlive, base.deviceAlive);
      deviceAlive[index] = 0;
      for (let i = devices[index].firstInterface; i < devices[index].endInterface; i++) strike(i);
    }
  }
  if (touched.size) interfaceAlive = interfaceAlive.slice();
  for (const i of touched) interfaceAlive[i] = Number(isUp(network, i, enabled, linkAlive, tunnelPasses));
  return { network, failed, deviceAlive, linkAlive, interfaceAlive, tunnelPasses };
}

function isUp(
  network: Network,
  i: number,
  enabled: Uint8Array,
  linkAlive: Uint8Array,
  tunnelPasses: Uint8Array,
): boolean {
  const { interfaces, links } = network;
  if (!enabled[i]) return false;
  if (interfaces.loopback[i]) return true;
  const link = interfaces.link[i];
  const tunnel = interfaces.tunnel[i];
  if (tunnel >= 0) {
    if (link >= 0 && !linkAlive[link]) return false;
    if (tunnelPasses[tunnel] & tunnelBits.throughItself) return false;
    return network.tunnels[tunnel].keepaliveMs === 0 || (tunnelPasses[tunnel] & tunnelBits.bothWays) !== 0;
  }
  if (link < 0) return false;
  const medium = links.medium[link];
  if (medium === mediumCodes.circuit) return true;
  if (!linkAlive[link]) return false;
  if (medium === mediumCodes.switch) return true;
  for (let e = links.endStart[link]; e < links.endStart[link + 1]; e++) {
    if (!enabled[links.ends[e]]) return false;
  }
  return true;
}

export type Contact = "answers" | "nobody" | "down" | "link-dead";

/** Who answers on a link: the interface, or why nobody does. */
export interface Neighbour {
  readonly interface: number;
  readonly contact: Contact;
}

/**
 * Who takes a packet that leaves by `out` towards `address` (rule 6.4): the interface on the same link
 * that owns it. Without an address, or where `peer` is settled, the far end whatever it owns.
 */
export function findNeighbour(
  state: Pick<State, "network" | "linkAlive" | "interfaceAlive" | "tunnelPasses">,
  out: number,
  address: Address | null,
  peer = -1,
): Neighbour {
  const owner = ownerOnLink(state.network, out, address, peer);
  return { interface: owner, contact: contactBy(state, out, owner) };
}

/** The interface on the link of `out` that owns an address, whatever has failed; -1 for none. */
export function ownerOnLink(network: Network, out: number, address: Address | null, peer: number): number {
  const { interfaces, links } = network;
  const link = interfaces.link[out];
  if (link < 0 || peer >= 0) return link < 0 ? -1 : peer;
  for (let e = links.endStart[link]; e < links.endStart[link + 1]; e++) {
    const end = links.ends[e];
    if (end !== out && (address === null || ownsOnLink(network, end, address))) return end;
  }
  return -1;
}

/** How it stands with an interface that a packet leaves to by `out`; `owner` -1 is nobody. */
export function contactBy(
  state: Pick<State, "network" | "linkAlive" | "interfaceAlive" | "tunnelPasses">,
  out: number,
  owner: number,
): Contact {
  const { interfaces } = state.network;
  const link = interfaces.link[out];
  if (link < 0) return "nobody";
  const tunnel = interfaces.tunnel[out];
  if (!state.linkAlive[link] || (tunnel >= 0 && !(state.tunnelPasses[tunnel] & tunnelBits.sends)))
    return "link-dead";
  if (owner < 0) return "nobody";
  return state.interfaceAlive[owner] ? "answers" : "down";
}

/** Whether an interface answers for an address on its link: its own, its subnet's, or one that it translates to. */
function ownsOnLink(network: Network, i: number, address: Address): boolean {
  if (answersFor(network, i, address)) return true;
  const device = network.devices[network.interfaces.device[i]];
  if (device.sourceNat.length === 0) return false;
  return device.sourceNat.some((nat) => nat.out === i && nat.to !== null && sameAddress(nat.to, address));
}

/** Whether an address is an interface's own, or that of every router on one of its IPv6 subnets (RFC 4291, 2.6.1). */
export function answersFor(network: Network, i: number, address: Address): boolean {
  return hasAddress(network, i, address) || isSubnetRouter(network, i, address);
}

/** Whether an address is the first of an IPv6 subnet that a forwarding router is attached to; not on /127 and /128. */
function isSubnetRouter(network: Network, i: number, address: Address): boolean {
  if (address.family !== 6) return false;
  const { interfaces, addresses } = network;
  const device = network.devices[interfaces.device[i]];
  if (device.role === "host" || !device.forwards[6]) return false;
  for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++) {
    if (addresses.family[k] !== 6) continue;
    const subnet = prefixOf(addressAt(addresses.words, 6, k), addresses.length[k]);
    if (subnetAddressKind(subnet, address) === "network") return true;
  }
  return false;
}

export function hasAddress(network: Network, i: number, address: Address): boolean {
  const { interfaces, addresses } = network;
  for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++) {
    const at = k * 4;
    if (
      addresses.words[at] === address.w0 &&
      addresses.family[k] === address.family &&
      addresses.words[at + 1] === address.w1 &&
      addresses.words[at + 2] === address.w2 &&
      addresses.words[at + 3] === address.w3
    ) {
      return true;
    }
  }
  return false;
}

/** The addresses of an interface, of one family where that is given. */
export function addressesOf(network: Network, i: number, family?: Family): Address[] {
  const { interfaces, addresses } = network;
  const list: Address[] = [];
  for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++) {
    const own = addresses.family[k] as Family;
    if (family === undefined || own === family) list.push(addressAt(addresses.words, own, k));
  }
  return list;
}

/** Interfaces by the addresses that they own, each under a number drawn from the address. */
const ownership = new WeakMap<Network, Map<number, number[]>>();

/** Interfaces that may own an address, ascending: those of all addresses that come to the same number. */
function nearOwners(network: Network, address: Address): readonly number[] {
  let owners = ownership.get(network);
  if (!owners) {
    owners = new Map();
    const { words, count, family, interface: at } = network.addresses;
    for (let k = 0; k < count; k++) {
      const own = addressAt(words, family[k] as Family, k);
      const answered = own.family === 6 ? [own, prefixOf(own, network.addresses.length[k]).address] : [own];
      for (const address of answered) {
        const key = digest(address);
        const list = owners.get(key);
        if (!list) owners.set(key, [at[k]]);
        else if (!list.includes(at[k])) list.push(at[k]);
      }
    }
    ownership.set(network, owners);
  }
  return owners.get(digest(address)) ?? [];
}

/** The interfaces that answer for an address, ascending: those that own it, and routers for the first of a subnet. */
export function answerersOf(network: Network, address: Address): number[] {
  return nearOwners(network, address).filter((i) => answersFor(network, i, address));
}

/** The interfaces that own an address, ascending. */
export function ownersOf(network: Network, address: Address): number[] {
  return nearOwners(network, address).filter((i) => hasAddress(network, i, address));
}

function digest({ w0, w1, w2, w3 }: Address): number {
  return (w0 ^ Math.imul(w1, 31) ^ Math.imul(w2, 17) ^ Math.imul(w3, 13)) >>> 0;
}

/** The up interface of a device that takes an address in a VRF for its own, or -1; `vrf` -1 takes any. */
export function ownInterface(
  network: Network,
  up: Uint8Array,
  device: number,
  vrf: number,
  address: Address,
): number {
  const { interfaces } = network;
  for (const i of nearOwners(network, address)) {
    if (interfaces.device[i] !== device || !up[i] || (vrf >= 0 && interfaces.vrf[i] !== vrf)) continue;
    if (answersFor(network, i, address)) return i;
  }
  return -1;
}

/** Why an interface is down, as a code for `words`; null where it is up. */
export type DownReason =
  | { code: "device-failed" | "interface-failed" | "interface-disabled" | "no-link" }
  | { code: "tunnel-underlay" | "tunnel-through-itself" }
  | { code: "link-failed"; link: number }
  | { code: "far-end-down"; interface: number };

export function whyDown(state: State, i: number): DownReason | null {
  if (state.interfaceUp[i]) return null;
  const { network, failed } = state;
  const { interfaces, links } = network;
  const failedHere = (kind: string, index: number) =>
    failed.some((element) => {
      const parts = elementParts(network, element);
      return parts.kind === kind && parts.index === index;
    });
  if (!state.deviceAlive[interfaces.device[i]]) return { code: "device-failed" };
  if (failedHere("interface", i)) return { code: "interface-failed" };
  if (!interfaces.enabled[i]) return { code: "interface-disabled" };
  const link = interfaces.link[i];
  if (link >= 0 && !state.linkAlive[link]) return { code: "link-failed", link };
  const tunnel = interfaces.tunnel[i];
  if (tunnel >= 0) {
    const itself = (state.tunnelPasses[tunnel] & tunnelBits.throughItself) !== 0;
    return { code: itself ? "tunnel-through-itself" : "tunnel-underlay" };
  }
  if (link < 0) return { code: "no-link" };
  for (let e = links.endStart[link]; e < links.endStart[link + 1]; e++) {
    if (links.ends[e] !== i) return { code: "far-end-down", interface: links.ends[e] };
  }
  return { code: "no-link" };
}
