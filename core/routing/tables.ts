import {
  type Address,
  buildRangeTable,
  type Family,
  lookup,
  type Prefix,
  type RangeTable,
} from "../address/index.ts";
import {
  actionCodes,
  type DeviceRecord,
  destinationOf,
  faults,
  type Network,
  type State,
  sourceCodes,
} from "../network/index.ts";
import { reasonOf, stateCodes } from "./codes.ts";
import { resolveNextHops } from "./resolve.ts";
import { selectRoutes } from "./select.ts";

/**
 * The route tables of one device under one local state: every candidate with what became of it,
 * and the lookup over those in use. Candidates and groups are counted from the device's first.
 */
export interface DeviceTables {
  readonly device: DeviceRecord;
  readonly state: Uint8Array;
  readonly reason: Uint8Array;
  /** What the reason speaks of: a candidate that won (counted network-wide), or the group it waited on. */
  readonly detail: Int32Array;
  /** Where the next hop of a candidate without `out` was found: a group (network-wide), or -1. */
  readonly through: Int32Array;
  /** Lookup of each table and family: `lookups[table * 2 + (family === 6)]`, answering with groups. */
  readonly lookups: readonly GroupLookup[];
  /** Answers worked out when first asked for: the routes of groups, the next hops of candidates. */
  readonly answered: {
    readonly routes: Map<number, GroupRoute>;
    readonly nextHops: Map<number, readonly NextHop[]>;
  };
}

/** What a group comes to: its destination, and its candidates in use (network-wide), local routes left out. */
export interface GroupRoute {
  readonly match: Prefix;
  readonly candidates: readonly number[];
  readonly policyTable: null;
}

/** Where a route sends a packet: out of an interface, to a next hop or straight to the destination. */
export interface NextHop {
  readonly out: number;
  /** null: the destination itself must answer. */
  readonly address: Address | null;
  /** The far interface where the plan settles it, or -1. */
  readonly peer: number;
}

export interface GroupLookup {
  readonly ranges: RangeTable;
  readonly groups: Int32Array;
}

/** The group (network-wide) that the longest match in a table leads to, or -1. */
export function longestMatch(tables: DeviceTables, table: number, address: Address): number {
  const found = tables.lookups[table * 2 + (address.family === 6 ? 1 : 0)];
  const position = lookup(found.ranges, address);
  return position < 0 ? -1 : found.groups[position];
}

/** The route that a group's candidates in use make. */
export function routeOf(network: Network, tables: DeviceTables, group: number): GroupRoute {
  const known = tables.answered.routes.get(group);
  if (known) return known;
  const { groups, candidates } = network;
  const list: number[] = [];
  for (let c = groups.start[group]; c < groups.start[group + 1]; c++) {
    if (candidates.source[c] === sourceCodes.local) continue;
    if (tables.state[c - tables.device.firstCandidate] === stateCodes["in-use"]) list.push(c);
  }
  const match = destinationOf(network, groups.start[group]);
  const route = { match, candidates: list, policyTable: null };
  tables.answered.routes.set(group, route);
  return route;
}

/** The candidates (network-wide) of a group that are in use, local routes left out. */
export function inUse(network: Network, tables: DeviceTables, group: number): readonly number[] {
  return routeOf(network, tables, group).candidates;
}

type LocalState = Pick<State, "interfaceUp" | "watchUp" | "answers">;

/**
 * Builds a device's tables (rules 3 to 5). They depend only on the device's own interfaces, watches
 * and neighbours' answers. Time: O(candidates × log) where no next hop chain is long.
 */
export function buildTables(network: Network, device: DeviceRecord, local: LocalState): DeviceTables {
  const { candidates } = network;
  const count = device.endCandidate - device.firstCandidate;
  const tables = {
    device,
    state: new Uint8Array(count).fill(stateCodes.unusable),
    reason: new Uint8Array(count),
    detail: new Int32Array(count).fill(-1),
    through: new Int32Array(count).fill(-1),
    lookups: [] as GroupLookup[],
    answered: { routes: new Map(), nextHops: new Map() },
  };
  const usable = new Int8Array(count);
  const deadGateways: number[] = [];
  for (let i = 0; i < count; i++) {
    const reason = directReason(network, device.firstCandidate + i, local);
    // A dead gateway's route is resolved too: where all are dead, the sender keeps trying one of them.
    const dead = reason === reasonOf("gateway-dead");
    if (dead) deadGateways.push(i);
    if ((reason === 0 || dead) && needsResolving(device.firstCandidate + i)) continue;
    usable[i] = reason === 0 ? 1 : -1;
    tables.reason[i] = reason;
    if (reason === reasonOf("disabled")) tables.state[i] = stateCodes.disabled;
  }
  resolveNextHops(network, device, usable, tables);
  for (const i of deadGateways) {
    if (usable[i] === 1) tables.reason[i] = reasonOf("gateway-dead");
    usable[i] = -1;
  }
  selectRoutes(network, device, usable, tables);
  buildLookups(network, device, tables);
  return tables;

  function needsResolving(c: number): boolean {
    return candidates.action[c] === actionCodes.forward && candidates.out[c] < 0;
  }
}

const faultReason = faults.map((fault) => reasonOf(fault));

/** What stands against a candidate before its next hop is resolved; 0 for nothing. */
function directReason(network: Network, c: number, local: LocalState): number {
  const { candidates } = network;
  if (candidates.fault[c]) return faultReason[candidates.fault[c]];
  const out = candidates.out[c];
  if (out >= 0 && !local.interfaceUp[out]) return reasonOf("interface-down");
  const watch = candidates.watch[c];
  if (watch >= 0 && !local.watchUp[watch]) return reasonOf("watch-down");
  const slot = candidates.answer[c];
  if (slot >= 0 && !local.answers[slot]) {
    const written =
      candidates.source[c] === sourceCodes.static || candidates.source[c] === sourceCodes.handedOut;
    return reasonOf(written ? "gateway-dead" : "neighbour-lost");
  }
  return 0;
}

function buildLookups(
  network: Network,
  device: DeviceRecord,
  tables: { state: Uint8Array; lookups: GroupLookup[] },
) {
  const { groups, candidates } = network;
  const tableCount = device.vrfs.length + device.policyTables.length;
  const lists = Array.from({ length: tableCount * 2 }, () => ({
    prefixes: [] as Prefix[],
    groups: [] as number[],
  }));
  for (let g = device.firstGroup; g < device.endGroup; g++) {
    for (let c = groups.start[g]; c < groups.start[g + 1]; c++) {
      if (candidates.source[c] === sourceCodes.local) continue;
      if (tables.state[c - device.firstCandidate] !== stateCodes["in-use"]) continue;
      const list = lists[groups.table[g] * 2 + (candidates.family[c] === 6 ? 1 : 0)];
      list.prefixes.push(destinationOf(network, c));
      list.groups.push(g);
      break;
    }
  }
  for (const [i, list] of lists.entries()) {
    const family: Family = i % 2 ? 6 : 4;
    tables.lookups.push({
      ranges: buildRangeTable(family, list.prefixes),
      groups: Int32Array.from(list.groups),
    });
  }
}
