import { type Address, isIpv6LinkLocal, sameAddress } from "../address/index.ts";
import { addTo, onceFor } from "../collections/index.ts";
import { type Network, sourceCodes, type VirtualRecord, viaOf } from "./network.ts";

/** The devices that act for shared addresses: Active virtual routers (rule 14) and active pair members (rule 17). */
export interface Roles {
  /** By virtual router: 1 Active. */
  readonly virtualActive: Uint8Array;
  /** By pair, two places each: 1 active, 2 active and the one that is heard where both are. */
  readonly pairActive: Uint8Array;
}

/** The roles that everything has before anything was heard: no virtual router Active, the preferred members of pairs. */
export const firstRoles = onceFor(
  (network: Network): Roles => ({
    virtualActive: new Uint8Array(network.virtuals.length),
    pairActive: Uint8Array.from(network.pairs.flatMap(({ preferred }) => [1 - preferred, preferred])),
  }),
);

/** Interfaces of those that have carrier, without those that are left to the other one of a pair. */
export function inUse(network: Network, carrier: Uint8Array, { pairActive }: Roles): Uint8Array {
  if (pairActive.length === 0) return carrier;
  const used = carrier.slice();
  for (const [i, twin] of network.twin.entries())
    if (twin >= 0 && !pairActive[network.pairPlace[network.interfaces.device[i]]]) used[i] = 0;
  return used;
}

/** The one of an interface and its twin that answers on a link. */
export function answeringNow(network: Network, { pairActive }: Roles, i: number): number {
  const twin = i < 0 ? -1 : network.twin[i];
  if (twin < 0 || network.interfaces.link[twin] !== network.interfaces.link[i]) return i;
  const places = [i, twin].map((one) => pairActive[network.pairPlace[network.interfaces.device[one]]]);
  return places[1] > places[0] ? twin : i;
}

const virtualsByAddress = onceFor((network: Network) => {
  const found = new Map<string, number[]>();
  for (const { index, interface: i, addresses } of network.virtuals)
    for (const address of addresses) addTo(found, keyOf(network.interfaces.link[i], address), index);
  return found;
});

/** The virtual routers of each device that has some, ascending. */
const virtualsByDevice = onceFor((network: Network) => {
  const found = new Map<number, VirtualRecord[]>();
  for (const record of network.virtuals) addTo(found, network.interfaces.device[record.interface], record);
  return found;
});

function keyOf(link: number, { family, w0, w1, w2, w3 }: Address): string {
  return `${link} ${family} ${w0} ${w1} ${w2} ${w3}`;
}

const none: readonly number[] = [];

/** The virtual routers that have an address on a link, ascending. */
export function virtualsOnLink(network: Network, link: number, address: Address): readonly number[] {
  if (network.virtuals.length === 0 || link < 0) return none;
  return virtualsByAddress(network).get(keyOf(link, address)) ?? none;
}

/** The interface whose virtual router answers for an address on a link; -1 if none does. With several, the highest
 * priority wins. */
export function virtualOwner(network: Network, roles: Roles, link: number, address: Address): number {
  let best = -1;
  for (const v of virtualsOnLink(network, link, address)) {
    if (!roles.virtualActive[v]) continue;
    if (best < 0 || isStronger(network, v, best)) best = v;
  }
  return best < 0 ? -1 : network.virtuals[best].interface;
}

/** By written priority, then by the greater primary address (RFC 9568, section 6.4.3). */
function isStronger(network: Network, a: number, b: number): boolean {
  const [one, other] = [network.virtuals[a], network.virtuals[b]];
  if (one.priority !== other.priority) return one.priority > other.priority;
  return comparePrimary(one.primary, other.primary) > 0;
}

/** The greater primary address wins a tie; who has none loses. */
export function comparePrimary(a: Address | null, b: Address | null): number {
  if (!a || !b) return Number(a !== null) - Number(b !== null);
  return a.w0 - b.w0 || a.w1 - b.w1 || a.w2 - b.w2 || a.w3 - b.w3;
}

/** The virtual router of a device in a VRF that is Active for an address, or -1; `vrf` -1 takes any. */
export function virtualAt(
  network: Network,
  roles: Roles,
  device: number,
  vrf: number,
  address: Address,
): number {
  if (network.virtuals.length === 0) return -1;
  for (const { index, interface: i, addresses, family } of virtualsByDevice(network).get(device) ?? []) {
    if (family !== address.family || !roles.virtualActive[index]) continue;
    if (vrf >= 0 && network.interfaces.vrf[i] !== vrf) continue;
    if (addresses.some((one) => sameAddress(one, address))) return index;
  }
  return -1;
}

/** A next hop as a route names it, and the VRF that it is resolved in. */
interface WrittenHop {
  readonly via: Address;
  readonly out: number;
  readonly vrf: number;
}

/** Whether a next hop is an address of an interface: a link-local one may stand on every link anew. */
export function namesAddressOf(
  { via, out, vrf }: WrittenHop,
  i: number,
  { vrf: vrfs }: Pick<Network["interfaces"], "vrf">,
  address: Address,
): boolean {
  return vrfs[i] === vrf && (!isIpv6LinkLocal(via) || out === i) && sameAddress(address, via);
}

const noRecords: readonly VirtualRecord[] = [];

/** The candidate's own virtual routers that have its next hop as an address: while one is Active, the next hop is the
 * device itself (rule 4.4). Only for candidates with an answer slot; nearly always empty. */
export function ownVirtualsOf(network: Network, candidate: number): readonly VirtualRecord[] {
  if (network.virtuals.length === 0) return noRecords;
  return ownVirtualsBySlot(network)[network.candidates.answer[candidate]] ?? noRecords;
}

const ownVirtualsBySlot = onceFor((network: Network) =>
  Array.from(network.candidates.answering, (c) => findOwnVirtuals(network, c)),
);

function findOwnVirtuals(network: Network, candidate: number): readonly VirtualRecord[] {
  const { candidates, devices, interfaces } = network;
  const { index, policyTables } = devices[candidates.device[candidate]];
  const via = viaOf(network, candidate);
  const own = virtualsByDevice(network).get(index);
  if (!own || !via) return noRecords;
  const table = candidates.table[candidate];
  const vrf = policyTables.find((one) => one.table === table)?.vrf ?? table;
  const hop = { via, out: candidates.out[candidate], vrf };
  return own.filter(({ interface: i, addresses }) =>
    addresses.some((one) => namesAddressOf(hop, i, interfaces, one)),
  );
}

/** Whether a candidate's answer slot depends on the device's own role alone; a learned route depends on its neighbor as
 * well. */
export function restsOnOwnRole(network: Network, candidate: number): boolean {
  return (
    network.candidates.source[candidate] !== sourceCodes.learned &&
    ownVirtualsOf(network, candidate).length > 0
  );
}

/** A device and, of a pair that tells each other, the other one (rule 17.3). */
export function matesOf(network: Network, device: number): readonly number[] {
  const place = network.pairPlace[device];
  if (place < 0) return [device];
  const pair = network.pairs[place >> 1];
  return pair.syncStates ? pair.members : [device];
}
