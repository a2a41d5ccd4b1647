import { sameAddress } from "../address/index.ts";
import { findRoute, type Trip, type Walk, type World } from "../forwarding/index.ts";
import { actionCodes, findNeighbour, type Network, sourceCodes } from "../network/index.ts";
import { nextHopsOf } from "../routing/index.ts";

/**
 * Whether a trip is sure to be what it was when only `dirty` devices can see anything of a failure: each of
 * them that it passes still looks up the same routes, with the same next hops and neighbours. Where that
 * cannot be told from a few lookups (translation, return-path checks, an end of the way), the answer is no.
 */
export function isUnmoved(trip: Trip, healthy: World, now: World, dirty: ReadonlySet<number>): boolean {
  return trip.branches.every(
    ({ outbound, reply }) =>
      wayStands(outbound, healthy, now, dirty) && (!reply || wayStands(reply, healthy, now, dirty)),
  );
}

function wayStands(walk: Walk, healthy: World, now: World, dirty: ReadonlySet<number>): boolean {
  const { packet } = walk;
  if (!packet || walk.sessions.length > 0) return !walk.hops.some((hop) => dirty.has(hop.device));
  const { network } = now.state;
  for (const [n, hop] of walk.hops.entries()) {
    if (!dirty.has(hop.device)) continue;
    const record = network.devices[hop.device];
    const changes =
      hop.translated !== null || record.sourceNat.length > 0 || record.profile.returnPath !== "off";
    if (n === walk.hops.length - 1 || changes || !now.state.deviceAlive[hop.device]) return false;
    if (hop.out < 0 || network.candidates.action[hop.candidate] !== actionCodes.forward) return false;
    const find = (world: World) =>
      findRoute(world, record, hop.vrf, hop.in, packet.source, packet.destination);
    const [before, after] = [find(healthy), find(now)];
    if (!before || !after || before.candidates.length !== after.candidates.length) return false;
    for (const [i, c] of before.candidates.entries()) {
      if (
        after.candidates[i] !== c ||
        !sameNextHops(network, hop.device, c, healthy, now, packet.destination)
      )
        return false;
    }
  }
  return true;
}

function sameNextHops(
  network: Network,
  device: number,
  candidate: number,
  healthy: World,
  now: World,
  destination: NonNullable<Walk["packet"]>["destination"],
): boolean {
  const before = nextHopsOf(network, healthy.tablesOf(device), candidate);
  const after = nextHopsOf(network, now.tablesOf(device), candidate);
  if (before.length !== after.length) return false;
  return before.every((hop, i) => {
    const other = after[i];
    const sameWay = hop.out === other.out && hop.peer === other.peer;
    const sameHop =
      hop.address && other.address ? sameAddress(hop.address, other.address) : hop.address === other.address;
    if (!sameWay || !sameHop) return false;
    const straight =
      network.candidates.source[candidate] === sourceCodes.connected ||
      !network.interfaces.pointToPoint[hop.out];
    const wanted = hop.address ?? (straight ? destination : null);
    const [a, b] = [
      findNeighbour(healthy.state, hop.out, wanted, hop.peer),
      findNeighbour(now.state, hop.out, wanted, hop.peer),
    ];
    return a.contact === b.contact && a.interface === b.interface;
  });
}
