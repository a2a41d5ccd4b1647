import { type Address, type Family, prefixOf, sameAddress, subnetAddressKind } from "../address/index.ts";
import { onceFor } from "../collections/index.ts";
import { elementParts } from "./elements.ts";
import { addressAt, mediumCodes, type Network } from "./network.ts";
import { hearing, memberBits, membersPassing, type Physical, tunnelBits } from "./physical.ts";
import { answeringNow, inUse, type Roles, virtualOwner } from "./roles.ts";

/** The network at one moment. The actual condition (`alive`) is separate from each device's belief (`up`): they agree
 * in a settled state and may differ during an outage. Every array holds one byte per item, 1 for true. A settled state
 * is immutable. */
export interface State extends Physical {
  /** A superset of the interfaces whose use differs from the state with nothing failed; null if unknown, for example if
   * beliefs differ from the actual condition. */
  readonly changedUse: readonly number[] | null;
  /** Interfaces that have carrier, as their own device sees it. */
  readonly carrierUp: Uint8Array;
  /** Those that it uses (rule 2): with carrier, or kept without, and not left to the other one of a pair. */
  readonly interfaceUp: Uint8Array;
  /** For each bundle, whether the members that its device considers up pass traffic: `memberBits`. */
  readonly members: Uint8Array;
  readonly watchUp: Uint8Array;
  /** Neighbours on which a candidate depends, as its device believes them to answer; by answer slot. */
  readonly answers: Uint8Array;
  /** Unreachable interfaces whose device has lost its neighbor entries, so that it cannot send either (rule 2.6); null
   * without any. */
  readonly forgotten: Uint8Array | null;
}

/** The state in which devices hold the given beliefs about carrier, watches and neighbors. If beliefs are accurate,
 * `carrierUp` is the physical `carrier`. */
export function stateOf(
  physical: Physical,
  beliefs: Pick<State, "carrierUp" | "watchUp" | "answers"> & Partial<Pick<State, "forgotten">>,
): State {
  const { network, carrier, admitted, roles, deaf } = physical;
  const { carrierUp, forgotten = forgettingOf(physical) } = beliefs;
  const kept = keepingRoutes(network);
  // What its device has not taken up yet takes nothing in either (rule 10.2).
  const interfaceAlive =
    carrierUp === carrier
      ? physical.interfaceAlive
      : inUse(
          network,
          hearing(
            carrier.map((up, i) => up & carrierUp[i]),
            deaf,
          ),
          roles,
        );
  let interfaceUp = carrierUp === carrier && !deaf ? interfaceAlive : inUse(network, carrierUp, roles);
  if (kept) {
    const without = carrierUp.map((up, i) => (kept[i] ? admitted[i] : up));
    interfaceUp = inUse(network, without, roles);
  }
  // One by one: a state is made for every failure of a sweep, and spreading objects costs more than all else here.
  return {
    network,
    failed: physical.failed,
    struck: physical.struck,
    deviceAlive: physical.deviceAlive,
    linkAlive: physical.linkAlive,
    admitted,
    carrier,
    interfaceAlive,
    deaf,
    forgotten,
    cut: physical.cut,
    tunnelPasses: physical.tunnelPasses,
    roles,
    changedCarrier: physical.changedCarrier,
    changedUse: interfaceUp === carrier ? physical.changedCarrier : null,
    carrierUp,
    watchUp: beliefs.watchUp,
    answers: beliefs.answers,
    interfaceUp,
    members: membersPassing(physical, carrierUp),
  };
}

/** The same state with other roles (rules 14 and 17). */
export function withRoles(state: State, roles: Roles): State {
  const { carrierUp, watchUp, answers, forgotten } = state;
  const interfaceAlive = inUse(state.network, hearing(state.carrier, state.deaf), roles);
  return stateOf({ ...state, roles, interfaceAlive }, { carrierUp, watchUp, answers, forgotten });
}

/** 1 for each interface whose device keeps routes active without carrier (rule 1); null without any. */
const keepingRoutes = onceFor(({ devices, interfaces, links }: Network): Uint8Array | null => {
  if (devices.every(({ profile }) => profile.carrierLoss === "withdraw")) return null;
  return Uint8Array.from(interfaces.device, (d, i) => {
    const linked = interfaces.link[i] >= 0 && links.medium[interfaces.link[i]] !== mediumCodes.tunnel;
    return Number(linked && devices[d].profile.carrierLoss === "keep");
  });
});

/** Unreachable interfaces whose devices lose their neighbor entries (rule 2.6): on media with neighbor resolution,
 * depending on the profile. Null without any. */
export function forgettingOf({ network, deaf }: Pick<Physical, "network" | "deaf">): Uint8Array | null {
  if (!deaf) return null;
  const { interfaces, devices } = network;
  return deaf.map(
    (is, i) =>
      is &
      Number(!interfaces.pointToPoint[i] && devices[interfaces.device[i]].profile.neighbourAgeMs !== null),
  );
}

export type Contact = "answers" | "nobody" | "down" | "link-dead" | "unresolved";

/** The interface that answers on a link, or the reason why none does. */
export interface Neighbour {
  readonly interface: number;
  readonly contact: Contact;
}

/**
 * Who takes a packet that leaves by `out` towards `address` (rule 6.4): the interface on the same link
 * that owns it. Without an address, or where `peer` is settled, the far end whatever it owns.
 */
export function findNeighbour(state: Passing, out: number, address: Address | null, peer = -1): Neighbour {
  const owner = ownerNow(state, out, address, peer);
  return { interface: owner, contact: contactBy(state, out, owner) };
}

/** The conditions under which a packet passes a link; beliefs count if known. */
export type Passing = Physical & Partial<Pick<State, "carrierUp" | "members" | "forgotten">>;

/** The interface on the link of `out` that answers for an address at this moment: among those that share it, by their roles. */
export function ownerNow(
  { network, roles }: Pick<State, "network" | "roles">,
  out: number,
  address: Address | null,
  peer: number,
): number {
  if (peer < 0 && address) {
    const owner = virtualOwner(network, roles, network.interfaces.link[out], address);
    if (owner >= 0) return owner;
  }
  return answeringNow(network, roles, ownerOnLink(network, out, address, peer));
}

/** Whether frames that leave by an interface come to another one of its link: on one with a hub, from or to that alone. */
export function reaches({ interfaces, links }: Network, out: number, end: number): boolean {
  const hub = links.hub[interfaces.link[out]];
  return hub < 0 || out === hub || end === hub;
}

/** The interface on the link of `out` that owns an address, whatever has failed; -1 for none. */
export function ownerOnLink(network: Network, out: number, address: Address | null, peer: number): number {
  const { interfaces, links } = network;
  const link = interfaces.link[out];
  if (link < 0 || peer >= 0) return link < 0 ? -1 : peer;
  for (let e = links.endStart[link]; e < links.endStart[link + 1]; e++) {
    const end = links.ends[e];
    if (end !== out && reaches(network, out, end) && (address === null || ownsOnLink(network, end, address)))
      return end;
  }
  return -1;
}

/** How a packet that leaves through `out` can reach `owner`; -1 is an address without an owner. */
export function contactBy(state: Passing, out: number, owner: number): Contact {
  const { interfaces } = state.network;
  const link = interfaces.link[out];
  if (link < 0) return "nobody";
  if (state.cut[out] || (owner >= 0 && state.cut[owner]) || membersOf(state, out) === memberBits.none)
    return "link-dead";
  // Where routes are kept without carrier, packets die (rule 1).
  if (state.carrierUp && !state.carrierUp[out]) return "link-dead";
  const tunnel = interfaces.tunnel[out];
  if (!state.linkAlive[link] || (tunnel >= 0 && !(state.tunnelPasses[tunnel] & tunnelBits.sends)))
    return "link-dead";
  if (state.forgotten?.[out]) return "unresolved";
  if (owner < 0 || !reaches(state.network, out, owner)) return "nobody";
  if (state.deaf?.[owner]) return "link-dead";
  return state.interfaceAlive[owner] ? "answers" : "down";
}

/** How it stands with the members of the bundle that an interface is or passes: `memberBits`. */
export function membersOf({ network, members }: Pick<Passing, "network" | "members">, i: number): number {
  const { bundle, parent } = network.interfaces;
  const b = bundle[parent[i] >= 0 ? parent[i] : i];
  return b < 0 || !members ? memberBits.all : members[b];
}

/** Whether an interface answers for an address on its link: its own, its subnet's, or one that it translates to. */
function ownsOnLink(network: Network, i: number, address: Address): boolean {
  if (answersFor(network, i, address)) return true;
  const device = network.devices[network.interfaces.device[i]];
  return (
    device.sourceNat.some((nat) => nat.out === i && nat.to !== null && sameAddress(nat.to, address)) ||
    device.destinationNat.some((nat) => nat.incoming.has(i) && sameAddress(nat.to, address))
  );
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

/** Why an interface is down, as a code for `words`; null if it is up. */
export type DownReason =
  | { code: "device-failed" | "interface-failed" | "interface-disabled" | "no-link" }
  | { code: "tunnel-underlay" | "tunnel-through-itself" }
  | { code: "link-failed"; link: number }
  /** Nothing reaches it over its link (rule 2.6). */
  | { code: "nothing-received"; link: number }
  /** What the link rides on has failed. */
  | { code: "under-failed"; link: number; under: number }
  /** The interface that its tag passes is down. */
  | { code: "parent-down"; interface: number }
  | { code: "too-few-members"; up: number; needed: number }
  /** Its ends no longer assure each other. */
  | { code: "not-assured" }
  /** The other one of the pair uses it. */
  | { code: "stands-by"; device: number }
  | { code: "far-end-down"; interface: number };

export function whyDown(state: State, i: number): DownReason | null {
  if (state.interfaceUp[i]) return null;
  const { network, struck } = state;
  const { interfaces, links } = network;
  const failedHere = (kind: string, index: number) =>
    struck.some((element) => {
      const parts = elementParts(network, element);
      return parts.kind === kind && parts.index === index;
    });
  if (!state.deviceAlive[interfaces.device[i]]) return { code: "device-failed" };
  if (failedHere("interface", i)) return { code: "interface-failed" };
  if (!interfaces.enabled[i]) return { code: "interface-disabled" };
  const built = whyBuiltDown(state, i);
  if (built) return built;
  const link = interfaces.link[i];
  if (link >= 0 && state.deaf?.[i]) return { code: "nothing-received", link };
  if (link >= 0 && !state.linkAlive[link]) {
    const under = [...links.riders].find(([at, riders]) => !state.linkAlive[at] && riders.includes(link));
    return under && !failedHere("link", link)
      ? { code: "under-failed", link, under: under[0] }
      : { code: "link-failed", link };
  }
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

/** Why a tagged interface, a bundle, a bundle member or a pair's shared interface is down; null for other interfaces.
 * */
function whyBuiltDown(state: State, i: number): DownReason | null {
  const { network, carrierUp } = state;
  const { interfaces, bundles, twin } = network;
  if (twin[i] >= 0 && carrierUp[i]) return { code: "stands-by", device: interfaces.device[twin[i]] };
  if (interfaces.parent[i] >= 0) return { code: "parent-down", interface: interfaces.parent[i] };
  if (interfaces.bundle[i] >= 0) {
    const { members, minUp } = bundles[interfaces.bundle[i]];
    return { code: "too-few-members", up: members.filter((m) => carrierUp[m]).length, needed: minUp };
  }
  const bundle = interfaces.memberOf[i] < 0 ? null : bundles[interfaces.memberOf[i]];
  const link = interfaces.link[i];
  const lost = bundle?.assured[bundle.members.indexOf(i)] && link >= 0;
  return lost && network.links.medium[link] === mediumCodes.circuit ? { code: "not-assured" } : null;
}
