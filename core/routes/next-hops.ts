import type { Address } from "../address/index.ts";
import { actionCodes, type Network, viaOf } from "../network/index.ts";
import { mayCarryNextHop } from "./attachment.ts";
import { inCircles } from "./circles.ts";
import { stateCodes } from "./codes.ts";
import { type DeviceTables, inUse, isRouteInUse, type NextHop } from "./device-tables.ts";

/** The next hops of a route in use; several where its chain passes routes that share the load. */
export function nextHopsOf(network: Network, tables: DeviceTables, candidate: number): readonly NextHop[] {
  if (network.candidates.out[candidate] >= 0) return [ownHop(network, candidate)];
  let hops = tables.answered.nextHops.get(candidate);
  if (!hops) {
    // A chain that comes back here finds nothing.
    tables.answered.nextHops.set(candidate, nowhere);
    hops = findNextHops(network, tables, candidate);
    tables.answered.nextHops.set(candidate, hops);
  }
  return hops;
}

function findNextHops(network: Network, tables: DeviceTables, candidate: number): NextHop[] {
  const { candidates } = network;
  const via = viaOf(network, candidate);
  const group = tables.through[candidate - tables.device.firstCandidate];
  if (group < 0 || !via) return [];
  const straight = attachmentIn(network, tables, group, candidates.resolve[candidate]);
  if (straight >= 0) return [settledBy(ownHop(network, straight), via)];
  const carriers = carriersOf(network, tables, group, candidates.resolve[candidate]);
  const first = carriers.length === 1 ? nextHopsOf(network, tables, carriers[0]) : [];
  if (first.length === 1) return [settledBy(first[0], via)];
  const hops: NextHop[] = [];
  for (const c of carriers) {
    for (const hop of nextHopsOf(network, tables, c)) {
      const settled = settledBy(hop, via);
      if (
        !hops.some(
          (h) => h.out === settled.out && h.peer === settled.peer && sameOrNull(h.address, settled.address),
        )
      ) {
        hops.push(settled);
      }
    }
  }
  return hops.slice(0, tables.device.profile.equalCost);
}

const nowhere: readonly NextHop[] = [];

/** The next hop of a candidate that names its interface. */
function ownHop(network: Network, candidate: number): NextHop {
  const { out, peer } = network.candidates;
  return { out: out[candidate], address: viaOf(network, candidate), peer: peer[candidate] };
}

/** The one candidate in use of a group that carries next hops on, where it names its interface; -1 for any other case. */
function attachmentIn(network: Network, tables: DeviceTables, group: number, rule: number): number {
  const { candidates, groups } = network;
  let only = -1;
  for (let c = groups.start[group]; c < groups.start[group + 1]; c++) {
    if (!isRouteInUse(network, tables, c)) continue;
    if (only >= 0) return -1;
    only = c;
  }
  return only >= 0 && candidates.out[only] >= 0 && carries(network, only, rule) ? only : -1;
}

/** A next hop resolved through a route without a next hop is the written one. */
function settledBy(hop: NextHop, via: Address): NextHop {
  return hop.address ? hop : { out: hop.out, address: via, peer: hop.peer };
}

/**
 * The routes through which a candidate's next hop is found as the tables stand; none where it names its interface.
 * A chain of them that meets itself is no way (rule 4.3): see `circularIn`.
 */
function stepsOf(network: Network, tables: DeviceTables, candidate: number): readonly number[] {
  if (network.candidates.out[candidate] >= 0) return [];
  const group = tables.through[candidate - tables.device.firstCandidate];
  return group < 0 ? [] : carriersOf(network, tables, group, network.candidates.resolve[candidate]);
}

/** Candidates (network-wide), active or standby, whose resolution chains in the current tables loop. `groups` restricts
 * the search if no other group resolves through them. */
export function circularIn(
  network: Network,
  tables: DeviceTables,
  groups: readonly number[] | null = null,
): number[] {
  const { firstCandidate, endCandidate } = tables.device;
  const recursive: number[] = [];
  const look = (c: number) => {
    const state = tables.state[c - firstCandidate];
    const usable = state === stateCodes["in-use"] || state === stateCodes.standby;
    if (usable && tables.through[c - firstCandidate] >= 0) recursive.push(c);
  };
  if (!groups) for (let c = firstCandidate; c < endCandidate; c++) look(c);
  for (const g of groups ?? [])
    for (let c = network.groups.start[g]; c < network.groups.start[g + 1]; c++) look(c);
  if (!recursive.some((c) => mayLeadOn(network, tables, c))) return [];
  return inCircles(recursive, (c) => stepsOf(network, tables, c));
}

/**
 * Whether any route through which a candidate's next hop may be found has to find its own in turn: nearly all lead to an
 * attachment, and no circle passes there.
 */
function mayLeadOn({ groups, candidates }: Network, tables: DeviceTables, candidate: number): boolean {
  const first = tables.device.firstCandidate;
  if (candidates.out[candidate] >= 0) return false;
  const group = tables.through[candidate - first];
  for (let c = groups.start[group]; c < groups.start[group + 1]; c++)
    if (candidates.out[c] < 0 && tables.through[c - first] >= 0) return true;
  return false;
}

function carries(network: Network, candidate: number, rule: number): boolean {
  return (
    mayCarryNextHop(network, candidate, rule) && network.candidates.action[candidate] === actionCodes.forward
  );
}

/** The routes of a group that next hops resolve through: the active ones, else the standby ones. */
function carriersOf(network: Network, tables: DeviceTables, group: number, rule: number): readonly number[] {
  const { groups } = network;
  const fits = (c: number) => carries(network, c, rule);
  const inAll = inUse(network, tables, group);
  const used = inAll.every(fits) ? inAll : inAll.filter(fits);
  if (used.length) return used;
  const scenario: number[] = [];
  for (let c = groups.start[group]; c < groups.start[group + 1]; c++) {
    if (tables.state[c - tables.device.firstCandidate] === stateCodes.standby && fits(c)) scenario.push(c);
  }
  return scenario.slice(0, 1);
}

function sameOrNull(a: Address | null, b: Address | null): boolean {
  if (!a || !b) return a === b;
  return a.w0 === b.w0 && a.w1 === b.w1 && a.w2 === b.w2 && a.w3 === b.w3;
}

/** The routes (network-wide) through which a next hop is found, one after the other, the attachment last. */
export function chainOf(network: Network, tables: DeviceTables, candidate: number): number[] {
  const circle = tables.circles.get(candidate);
  if (circle) return [...circle];
  const chain: number[] = [];
  let at = candidate;
  for (;;) {
    const group = network.candidates.out[at] < 0 ? tables.through[at - tables.device.firstCandidate] : -1;
    if (group < 0) return chain;
    const [carrier] = carriersOf(network, tables, group, network.candidates.resolve[at]);
    const next = carrier ?? network.groups.start[group];
    if (chain.includes(next) || next === candidate) return [...chain, next];
    chain.push(next);
    at = next;
  }
}
