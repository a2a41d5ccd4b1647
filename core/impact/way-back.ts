import { type Address, containsPrefix, formatAddress } from "../address/index.ts";
import { type Engine, settle } from "../convergence/index.ts";
import { type Question, walkBothWays } from "../forwarding/index.ts";
import {
  actionCodes,
  addressAt,
  addressesOf,
  type DeviceRecord,
  destinationOf,
  formatElement,
  interfaceElement,
} from "../network/index.ts";
import { inUse, longestMatch, nextHopsOf } from "../rib/index.ts";
import { dropText } from "../words/index.ts";

/** Whether what a route sends out comes back: from the networks behind the device to those that it leads to. */
export interface WayBack {
  /** The element that must fail before the route carries; null where it carries now. */
  when: string | null;
  asked: number;
  answered: number;
  /** The pairs that get no answer, with the reason. */
  trouble: { source: string; to: string; because: string }[];
}

/** Pairs of source and destination that are tried at most. */
const MOST = 16;

/** Asks the forward path and back for a candidate; null where it carries nothing, leads to nobody, or stands in a policy table. */
export function wayBackOf(engine: Engine, c: number): WayBack | null {
  const { network } = engine;
  const { candidates } = network;
  const device = network.devices[candidates.device[c]];
  if (candidates.table[c] >= device.vrfs.length || candidates.action[c] !== actionCodes.forward) return null;
  let { world } = engine.healthy;
  let when: string | null = null;
  if (!carries(c)) {
    const tables = world.tablesOf(device.index);
    const [winner] = inUse(network, tables, network.candidates.group[c]);
    const [hop] = winner === undefined ? [] : nextHopsOf(network, tables, winner);
    if (!hop) return null;
    const element = interfaceElement(network, hop.out);
    world = settle(engine, [element]).world;
    when = formatElement(network, element);
    if (!carries(c)) return null;
  }
  const [own] = nextHopsOf(network, world.tablesOf(device.index), c);
  const sources = sourcesOf(device, own.out);
  const targets = targetsOf(device);
  const pairs = sources.flatMap((source) => targets.map((to) => ({ source, to }))).slice(0, MOST);
  if (pairs.length === 0) return null;
  const answer: WayBack = { when, asked: pairs.length, answered: 0, trouble: [] };
  for (const { source, to } of pairs) {
    const question: Question = {
      device: device.index,
      vrf: network.candidates.table[c],
      source,
      destination: to,
      protocol: "icmp",
      port: null,
    };
    const trip = walkBothWays(world, question);
    if (trip.verdict === "works") {
      answer.answered++;
      continue;
    }
    const { outbound, reply } = trip.worst;
    const because = outbound.drop
      ? dropText(world.state, outbound, outbound.drop)
      : reply?.drop
        ? `of the reply: ${dropText(world.state, reply, reply.drop)}`
        : "";
    answer.trouble.push({ source: formatAddress(source), to: formatAddress(to), because });
  }
  return answer;

  function carries(candidate: number): boolean {
    const tables = world.tablesOf(device.index);
    return inUse(network, tables, network.candidates.group[candidate]).includes(candidate);
  }

  /** The device's own addresses on the networks behind it; where it has none, the one that it leaves by. */
  function sourcesOf(record: DeviceRecord, out: number): Address[] {
    const family = destinationOf(network, c).address.family;
    const behind: Address[] = [];
    for (let i = record.firstInterface; i < record.endInterface; i++) {
      if (i === out || !world.state.interfaceUp[i] || network.interfaces.loopback[i]) continue;
      if (leadsAway(i)) continue;
      behind.push(...addressesOf(network, i, family).slice(0, 1));
    }
    return behind.length ? behind.slice(0, 4) : addressesOf(network, out, family).slice(0, 1);
  }

  /** Whether an interface is a way out itself: some route of the device leaves by it. */
  function leadsAway(i: number): boolean {
    const tables = world.tablesOf(device.index);
    for (let x = device.firstCandidate; x < device.endCandidate; x++) {
      if (network.candidates.hasVia[x] && nextHopsOf(network, tables, x).some((hop) => hop.out === i))
        return true;
    }
    return false;
  }

  /** One address in each network that the route leads to, the hosts' own first. */
  function targetsOf(record: DeviceRecord): Address[] {
    const { addresses, interfaces } = network;
    const to = destinationOf(network, c);
    const found = new Map<string, { address: Address; host: boolean }>();
    for (let k = 0; k < addresses.count; k++) {
      const address = addressAt(addresses.words, to.address.family, k);
      const owner = network.devices[interfaces.device[addresses.interface[k]]];
      if (addresses.family[k] !== to.address.family || owner === record || owner.role === "internet")
        continue;
      if (!containsPrefix(to, { address, length: to.address.family === 4 ? 32 : 128 })) continue;
      const tables = world.tablesOf(record.index);
      if (!isLedBy(tables, address)) continue;
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

  function isLedBy(tables: ReturnType<typeof world.tablesOf>, address: Address): boolean {
    const group = longestMatch(tables, network.candidates.table[c], address);
    return group >= 0 && inUse(network, tables, group).includes(c);
  }
}
