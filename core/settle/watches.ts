import { type Address, containsAddress, isIpv6LinkLocal, samePrefix } from "../address/index.ts";
import {
  addressesOf,
  type DeviceRecord,
  destinationOf,
  type ElementNumber,
  findNeighbour,
  type Network,
  type WatchRecord,
  watchElement,
} from "../network/index.ts";
import type { WatchGroup } from "../plan/index.ts";
import { inUse, type NextHop, nextHopsOf } from "../routes/index.ts";
import { flatTrips, type Question, type World } from "../walk/index.ts";

/** What each watch reads in a world at this moment, delays and counters left out (rules 9.1 to 9.4). */
export function readWatches(world: World): Uint8Array {
  const { network, failed } = world.state;
  const failedWatches = failedWatchesOf(network, failed);
  const up = new Uint8Array(network.watches.length);
  const open = new Uint8Array(network.watches.length).fill(1);
  const read = (index: number): number => {
    if (open[index]) {
      open[index] = 0;
      up[index] = readWatch(world, index, failedWatches, read);
    }
    return up[index];
  };
  for (const { index } of network.watches) read(index);
  return up;
}

/** The watches among failed elements. */
export function failedWatchesOf(network: Network, failed: readonly ElementNumber[]): ReadonlySet<number> {
  const first = watchElement(network, 0);
  // The elements are ascending, only what fails together comes after watches.
  if (failed.length === 0 || failed[failed.length - 1] < first) return none;
  const end = first + network.watches.length;
  return new Set(
    failed.filter((element) => element >= first && element < end).map((element) => element - first),
  );
}

const none: ReadonlySet<number> = new Set();

/** The reading of one watch: 1 for up. `readingOf` supplies those of a group's members. */
export function readWatch(
  world: World,
  index: number,
  failedWatches: ReadonlySet<number>,
  readingOf: (member: number) => number,
): number {
  const record = world.state.network.watches[index];
  const { watch } = record;
  if (failedWatches.has(index) || !world.state.deviceAlive[record.device]) return 0;
  switch (watch.kind) {
    case "interface":
      return world.state.carrierUp[record.port];
    case "bfd":
      return Number(sessionUp(world, record, failedWatches));
    case "probe":
      return Number(probeAnswers(world, record));
    case "route":
      return Number(routeInUse(world, record));
    case "group": {
      const up = record.members.filter((member) => readingOf(member)).length;
      return Number(groupUp(watch.need, up, record.members.length));
    }
  }
}

/** Rule 9.4: whether enough of a group's members are up. */
export function groupUp(need: WatchGroup["need"], up: number, members: number): boolean {
  return up >= (need === "any" ? 1 : need === "all" ? members : need);
}

/** Rule 4.8: watches of a family whose forwarding is off cannot be used on routers. */
function familyOff(device: DeviceRecord, address: Address): boolean {
  return device.role !== "host" && !device.forwards[address.family];
}

/** The session that the far end holds for this one, or null (rule 9.2). */
export function sessionPartner(network: Network, record: WatchRecord): WatchRecord | null {
  return record.partner < 0 ? null : network.watches[record.partner];
}

function sessionUp(world: World, record: WatchRecord, failed: ReadonlySet<number>): boolean {
  const { network, interfaceUp, deaf } = world.state;
  const partner = sessionPartner(network, record);
  const { port, peer } = record;
  // A session that was never up does not hold its route back where the family takes it all the same (rule 9.2).
  if (!partner || !peer) return network.devices[record.device].profile.neverUp === "ignored";
  if (failed.has(partner.index)) return false;
  if (familyOff(network.devices[record.device], peer) || familyOff(network.devices[partner.device], peer))
    return false;
  return (
    interfaceUp[port] === 1 &&
    interfaceUp[partner.port] === 1 &&
    !deaf?.[port] &&
    findNeighbour(world.state, port, peer).contact === "answers"
  );
}

/** Rule 9.7: whether a route to the very prefix is in use. */
function routeInUse(world: World, { device, route }: WatchRecord): boolean {
  const { network } = world.state;
  const { firstGroup, endGroup } = network.devices[device];
  const { groups } = network;
  for (let g = firstGroup; route && g < endGroup; g++) {
    if (groups.table[g] !== route.vrf || !samePrefix(destinationOf(network, groups.start[g]), route.to))
      continue;
    return inUse(network, world.tablesOf(device), g).length > 0;
  }
  return false;
}

/** How a probe's packets leave (rule 9.3). Null if it cannot send, and for other kinds of watches. */
export function probeSending(world: World, record: WatchRecord): Question | null {
  // It rests on what the device sees of itself alone, as its tables do.
  const { sendings } = world.tablesOf(record.device).answered;
  const known = sendings.get(record.index) as Question | null | undefined;
  if (known !== undefined) return known;
  const sending = findSending(world, record);
  sendings.set(record.index, sending);
  return sending;
}

function findSending(world: World, record: WatchRecord): Question | null {
  const { network } = world.state;
  if (!record.probe) return null;
  const { target, out, via, sourcePort } = record.probe;
  const device = network.devices[record.device];
  if (familyOff(device, target)) return null;
  if (out >= 0 && !world.state.interfaceUp[out]) return null;
  const source =
    record.probe.source ??
    (sourcePort >= 0 ? (addressesOf(network, sourcePort, target.family)[0] ?? null) : null);
  if (sourcePort >= 0 && !source) return null;
  const vrf = network.interfaces.vrf[out >= 0 ? out : sourcePort] ?? 0;
  const pinned = pinnedHop(world, device, out, via, target);
  const sending = {
    device: record.device,
    vrf,
    source,
    destination: target,
    protocol: "icmp" as const,
    port: null,
    ...(out >= 0 && isIpv6LinkLocal(target) ? { zone: out } : {}),
  };
  return pinned ? { ...sending, pinned } : sending;
}

function pinnedHop(
  world: World,
  device: DeviceRecord,
  out: number,
  via: Address | null,
  target: Address,
): NextHop | undefined {
  const { network } = world.state;
  if (via) {
    for (let i = device.firstInterface; out < 0 && i < device.endInterface; i++) {
      const neighbour = findNeighbour(world.state, i, via);
      if (neighbour.interface >= 0) return { out: i, address: via, peer: -1 };
    }
    return out < 0 ? undefined : { out, address: via, peer: -1 };
  }
  if (out < 0) return undefined;
  if (isIpv6LinkLocal(target)) return { out, address: null, peer: -1 };
  // Pinned to an interface alone: the longest route that leaves by it, in use or not, else straight on.
  const tables = world.tablesOf(device.index);
  let best: { hop: NextHop; length: number } | null = null;
  for (let c = device.firstCandidate; c < device.endCandidate; c++) {
    const destination = destinationOf(network, c);
    if (network.candidates.source[c] === 0 || !containsAddress(destination, target)) continue;
    const hop = nextHopsOf(network, tables, c).find((h) => h.out === out);
    if (hop && (!best || destination.length > best.length)) best = { hop, length: destination.length };
  }
  return best?.hop ?? { out, address: null, peer: -1 };
}

function probeAnswers(world: World, record: WatchRecord): boolean {
  const sending = probeSending(world, record);
  return sending !== null && flatTrips(world.state.network).verdictOf(world, sending) === "works";
}
