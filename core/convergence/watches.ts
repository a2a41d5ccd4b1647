import {
  type Address,
  containsAddress,
  isIpv6LinkLocal,
  parseAddress,
  parseZonedAddress,
  type ZonedAddress,
} from "../address/index.ts";
import { type Question, type World, walkBothWays } from "../forwarding/index.ts";
import {
  addressesOf,
  type DeviceRecord,
  destinationOf,
  findNeighbour,
  hasAddress,
  type Network,
  type WatchRecord,
} from "../network/index.ts";
import type { BfdSession, Probe, WatchGroup } from "../plan/index.ts";
import { type NextHop, nextHopsOf } from "../rib/index.ts";

/** What each watch reads in a world at this moment, delays and counters left out (rules 9.1 to 9.4). */
export function readWatches(world: World, failedWatches: ReadonlySet<number>): Uint8Array {
  const { network } = world.state;
  const up = new Uint8Array(network.watches.length);
  const read = new Uint8Array(network.watches.length);
  const readOne = (record: WatchRecord): number => {
    if (read[record.index]) return up[record.index];
    read[record.index] = 1;
    const { watch } = record;
    if (failedWatches.has(record.index) || !world.state.deviceAlive[record.device]) return 0;
    let now = false;
    if (watch.kind === "interface")
      now = world.state.interfaceUp[portOf(network, record, watch.interface)] === 1;
    else if (watch.kind === "bfd") now = sessionUp(world, record, watch, failedWatches);
    else if (watch.kind === "probe") now = probeAnswers(world, record, watch);
    else {
      const up = record.members.filter((m) => readOne(network.watches[m])).length;
      now = groupUp(watch.need, up, record.members.length);
    }
    up[record.index] = Number(now);
    return up[record.index];
  };
  for (const record of network.watches) readOne(record);
  return up;
}

/** Rule 9.4: whether enough of a group's members are up. */
export function groupUp(need: WatchGroup["need"], up: number, members: number): boolean {
  return up >= (need === "any" ? 1 : need === "all" ? members : need);
}

export function portOf(network: Network, record: WatchRecord, name: string): number {
  return network.interfaceIndex.get(`${network.devices[record.device].id}/${name}`) as number;
}

/** Rule 4.8: watches of a family whose forwarding is off cannot be used on routers. */
function familyOff(device: DeviceRecord, address: Address): boolean {
  return device.role !== "host" && !device.forwards[address.family];
}

/** The session that the far end holds for this one, or null (rule 9.2). */
export function sessionPartner(network: Network, record: WatchRecord, watch: BfdSession): WatchRecord | null {
  const here = portOf(network, record, watch.interface);
  const peer = parseAddress(watch.peer);
  const link = network.interfaces.link[here];
  if (!peer || link < 0) return null;
  for (const other of network.watches) {
    if (other.watch.kind !== "bfd" || other.device === record.device) continue;
    const there = portOf(network, other, other.watch.interface);
    const back = parseAddress(other.watch.peer);
    if (network.interfaces.link[there] !== link || !back) continue;
    if (hasAddress(network, there, peer) && hasAddress(network, here, back)) return other;
  }
  return null;
}

function sessionUp(
  world: World,
  record: WatchRecord,
  watch: BfdSession,
  failed: ReadonlySet<number>,
): boolean {
  const { network } = world.state;
  const peer = parseAddress(watch.peer) as Address;
  const here = portOf(network, record, watch.interface);
  const partner = sessionPartner(network, record, watch);
  if (!partner || failed.has(partner.index) || familyOff(network.devices[record.device], peer)) return false;
  if (familyOff(network.devices[partner.device], peer)) return false;
  const { interfaceUp } = world.state;
  const there = portOf(network, partner, (partner.watch as BfdSession).interface);
  return (
    interfaceUp[here] === 1 &&
    interfaceUp[there] === 1 &&
    findNeighbour(world.state, here, peer).contact === "answers"
  );
}

/** How a probe's packets leave (rule 9.3). Null where it cannot send at all. */
export function probeSending(world: World, record: WatchRecord, watch: Probe): Question | null {
  const { network } = world.state;
  const device = network.devices[record.device];
  const { address: target, zone } = parseZonedAddress(watch.target) as ZonedAddress;
  if (familyOff(device, target)) return null;
  const leaves = watch.out ?? zone ?? undefined;
  const out = leaves === undefined ? -1 : portOf(network, record, leaves);
  if (out >= 0 && !world.state.interfaceUp[out]) return null;
  const from = watch.source === undefined ? null : parseAddress(watch.source);
  const port = watch.source !== undefined && !from ? portOf(network, record, watch.source) : -1;
  const source = from ?? (port >= 0 ? (addressesOf(network, port, target.family)[0] ?? null) : null);
  if (port >= 0 && !source) return null;
  const vrf = network.interfaces.vrf[out >= 0 ? out : port >= 0 ? port : -1] ?? 0;
  const via = watch.via ? parseAddress(watch.via) : null;
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

function probeAnswers(world: World, record: WatchRecord, watch: Probe): boolean {
  const sending = probeSending(world, record, watch);
  return sending !== null && walkBothWays(world, sending).verdict === "works";
}
