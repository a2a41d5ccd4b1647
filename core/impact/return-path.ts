import { type Address, containsPrefix, formatAddress, hostPrefix } from "../address/index.ts";
import {
  actionCodes,
  addressAt,
  addressesOf,
  type DeviceRecord,
  destinationOf,
  formatElement,
  interfaceElement,
} from "../network/index.ts";
import { inUse, longestMatch, nextHopsOf } from "../routes/index.ts";
import { type Engine, settle } from "../settle/index.ts";
import { type Question, type Trip, type World, walkBothWays } from "../walk/index.ts";
import { dropText } from "../words/index.ts";

/** Whether what a route sends out comes back: from the networks behind the device to those that it leads to. */
export interface ReturnPath {
  /** The element that must fail before the route carries; null where it carries now. */
  when: string | null;
  asked: number;
  answered: number;
  /** The pairs that get no answer, with the reason. */
  trouble: { source: string; to: string; because: string }[];
}

/** Pairs of source and destination that are tried at most. */
const MOST = 16;

/** The forward and return path of a candidate; null if it carries no traffic, reaches no host, or is in a policy table.
 * */
export function returnPathOf(engine: Engine, c: number): ReturnPath | null {
  const { network } = engine;
  const { candidates } = network;
  const device = network.devices[candidates.device[c]];
  if (candidates.table[c] >= device.vrfs.length || candidates.action[c] !== actionCodes.forward) return null;
  const carried = flowsOn(engine, device, c);
  if (!carried) return null;
  const { world, when } = carried;
  const pairs = pairsOf(world, device, c);
  if (pairs.length === 0) return null;
  const answer: ReturnPath = { when, asked: pairs.length, answered: 0, trouble: [] };
  for (const { source, to } of pairs) {
    const question: Question = {
      device: device.index,
      vrf: candidates.table[c],
      source,
      destination: to,
      protocol: "icmp",
      port: null,
    };
    const trip = walkBothWays(world, question);
    if (trip.verdict === "works") answer.answered++;
    else {
      const because = reasonOf(world, trip.worst);
      answer.trouble.push({ source: formatAddress(source), to: formatAddress(to), because });
    }
  }
  return answer;
}

/** The world in which a candidate carries: now, or once the way that is preferred to it is cut; null where neither. */
function flowsOn(
  engine: Engine,
  device: DeviceRecord,
  c: number,
): { world: World; when: string | null } | null {
  const { network, healthy } = engine;
  if (carries(healthy.world, device, c)) return { world: healthy.world, when: null };
  const tables = healthy.world.tablesOf(device.index);
  const [winner] = inUse(network, tables, network.candidates.group[c]);
  const [hop] = winner === undefined ? [] : nextHopsOf(network, tables, winner);
  if (!hop) return null;
  const element = interfaceElement(network, hop.out);
  const { world } = settle(engine, [element]);
  return carries(world, device, c) ? { world, when: formatElement(network, element) } : null;
}

function carries(world: World, device: DeviceRecord, c: number): boolean {
  const { network } = world.state;
  return inUse(network, world.tablesOf(device.index), network.candidates.group[c]).includes(c);
}

function pairsOf(world: World, device: DeviceRecord, c: number) {
  const [own] = nextHopsOf(world.state.network, world.tablesOf(device.index), c);
  const targets = targetsOf(world, device, c);
  return sourcesOf(world, device, c, own.out)
    .flatMap((source) => targets.map((to) => ({ source, to })))
    .slice(0, MOST);
}

function reasonOf({ state }: World, { outbound, reply }: Trip["worst"]): string {
  if (outbound.drop) return dropText(state, outbound, outbound.drop);
  return reply?.drop ? `the reply is lost: ${dropText(state, reply, reply.drop)}` : "";
}

/** The device's own addresses on the networks behind it; where it has none, the one that it leaves by. */
function sourcesOf(world: World, device: DeviceRecord, c: number, out: number): Address[] {
  const { network } = world.state;
  const family = destinationOf(network, c).address.family;
  const behind: Address[] = [];
  for (let i = device.firstInterface; i < device.endInterface; i++) {
    if (i === out || !world.state.interfaceUp[i] || network.interfaces.loopback[i]) continue;
    if (leadsAway(world, device, i)) continue;
    behind.push(...addressesOf(network, i, family).slice(0, 1));
  }
  return behind.length ? behind.slice(0, 4) : addressesOf(network, out, family).slice(0, 1);
}

/** Whether an interface is a way out itself: some route of the device leaves by it. */
function leadsAway(world: World, device: DeviceRecord, i: number): boolean {
  const { network } = world.state;
  const tables = world.tablesOf(device.index);
  for (let x = device.firstCandidate; x < device.endCandidate; x++) {
    if (network.candidates.hasVia[x] && nextHopsOf(network, tables, x).some((hop) => hop.out === i))
      return true;
  }
  return false;
}

/** One address in each network that the route leads to, the hosts' own first. */
function targetsOf(world: World, device: DeviceRecord, c: number): Address[] {
  const { network } = world.state;
  const { addresses, interfaces } = network;
  const to = destinationOf(network, c);
  const { family } = to.address;
  const tables = world.tablesOf(device.index);
  const found = new Map<string, { address: Address; host: boolean }>();
  for (let k = 0; k < addresses.count; k++) {
    const address = addressAt(addresses.words, family, k);
    const owner = network.devices[interfaces.device[addresses.interface[k]]];
    if (addresses.family[k] !== family || owner === device || owner.role === "internet") continue;
    if (!containsPrefix(to, hostPrefix(address))) continue;
    const group = longestMatch(network, tables, network.candidates.table[c], address);
    if (group < 0 || !inUse(network, tables, group).includes(c)) continue;
    const key = `${interfaces.link[addresses.interface[k]]} ${addresses.length[k]}`;
    const host = owner.role === "host";
    const known = found.get(key);
    if (!known || (host && !known.host)) found.set(key, { address, host });
  }
  return [...found.values()]
    .sort((a, b) => Number(b.host) - Number(a.host))
    .slice(0, 8)
    .map(({ address }) => address);
}
