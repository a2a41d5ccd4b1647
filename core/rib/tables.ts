import { buildRangeTable, type Family, type Prefix } from "../address/index.ts";
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
import type { DeviceTables, GroupLookup } from "./device-tables.ts";
import { chainOf, circularIn } from "./next-hops.ts";
import { resolveNextHops } from "./resolve.ts";
import { selectRoutes } from "./select.ts";

type LocalState = Pick<State, "interfaceUp" | "watchUp" | "answers">;

/**
 * Builds a device's tables (rules 3 to 5). They depend only on the device's own interfaces, watches
 * and neighbours' answers. Time: O(candidates × log) where no next hop chain is long.
 */
export function buildTables(network: Network, device: DeviceRecord, local: LocalState): DeviceTables {
  const circles = new Map<number, readonly number[]>();
  for (;;) {
    const tables = settleTables(network, device, local, circles);
    // Whether a chain meets itself shows only once it is known which routes are in use.
    const more = circularIn(network, tables);
    if (more.length === 0) {
      const lookups = buildLookups(network, device, tables);
      return { ...tables, lookups };
    }
    const chains = more.map((c) => chainOf(network, tables, c));
    for (const [n, c] of more.entries()) circles.set(c, chains[n]);
  }
}

/** Resolves and selects, the candidates that are known to lead to themselves left out. */
function settleTables(
  network: Network,
  device: DeviceRecord,
  local: LocalState,
  circles: ReadonlyMap<number, readonly number[]>,
): DeviceTables {
  const { candidates } = network;
  const count = device.endCandidate - device.firstCandidate;
  const tables = {
    device,
    state: new Uint8Array(count).fill(stateCodes.unusable),
    reason: new Uint8Array(count),
    detail: new Int32Array(count).fill(-1),
    through: new Int32Array(count).fill(-1),
    circles,
    lookups: [] as GroupLookup[],
    answered: { routes: new Map(), nextHops: new Map() },
  };
  const usable = new Int8Array(count);
  const deadGateways: number[] = [];
  for (let i = 0; i < count; i++) {
    const c = device.firstCandidate + i;
    const reason = circles.has(c) ? reasonOf("next-hop-circular") : directReason(network, c, local);
    // A dead gateway's route is resolved too: where all are dead, the sender keeps trying one of them.
    const dead = reason === reasonOf("gateway-dead");
    if (dead) deadGateways.push(i);
    const resolves = candidates.action[c] === actionCodes.forward && candidates.out[c] < 0;
    if ((reason === 0 || dead) && resolves) continue;
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
  return tables;
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
  tables: { readonly state: Uint8Array },
): GroupLookup[] {
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
  return lists.map((list, i) => {
    const family: Family = i % 2 ? 6 : 4;
    return { ranges: buildRangeTable(family, list.prefixes), groups: Int32Array.from(list.groups) };
  });
}
