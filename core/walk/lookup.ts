import { type Address, containsAddress, type Prefix } from "../address/index.ts";
import { actionCodes, type DeviceRecord, type Network, type Steered, sourceCodes } from "../network/index.ts";
import {
  type DeviceTables,
  type GroupRoute,
  longestMatch,
  type NextHop,
  nextHopsOf,
  routeOf,
} from "../routes/index.ts";
import type { Packet } from "./packet.ts";
import type { World } from "./world.ts";

export interface RouteMatch {
  readonly match: Prefix;
  /** The candidates in use for it; several share the load. */
  readonly candidates: readonly number[];
  /** The policy table that answered, or null for the VRF's own. */
  readonly policyTable: string | null;
}

/** The packet fields that policy tables match; `source` is null until chosen, `in` -1 for a device's own packets. */
export interface LookedAt extends Omit<Packet, "source"> {
  readonly source: Address | null;
  readonly in: number;
  /** The mark that it bears in this device, or null. */
  readonly mark: number | null;
}

/** Whether a packet is such as a policy table or a mark asks for. */
function isSteered(by: Steered, packet: LookedAt): boolean {
  if (by.incoming && !by.incoming.has(packet.in)) return false;
  if (by.protocol && by.protocol !== packet.protocol) return false;
  const { port } = packet;
  if (by.firstPort > 0 && (port === null || port < by.firstPort || port > by.lastPort)) return false;
  const within = (list: readonly Prefix[] | null, address: Address | null) =>
    !list || (address !== null && list.some((prefix) => containsAddress(prefix, address)));
  return within(by.from, packet.source) && within(by.to, packet.destination);
}

/** The mark that a device gives a packet: of all that match, the last (rule 6.10). */
export function markOf({ marks }: DeviceRecord, packet: Omit<LookedAt, "mark">): number | null {
  if (marks.length === 0) return null;
  return marks.findLast((mark) => isSteered(mark, { ...packet, mark: null }))?.set ?? null;
}

/** The route for a packet at a device (rules 5.3 and 6.2): policy tables that match it, then the VRF's table. */
export function findRoute(
  world: World,
  device: DeviceRecord,
  vrf: number,
  packet: LookedAt,
): RouteMatch | null {
  const { network } = world.state;
  const tables = world.tablesOf(device.index);
  const { destination } = packet;
  const plain = match(network, tables, vrf, destination);
  for (const table of device.policyTables) {
    if (table.vrf !== vrf || (table.mark !== null && table.mark !== packet.mark)) continue;
    if (!isSteered(table, packet)) continue;
    const route = match(network, tables, table.table, destination);
    const found = route && { ...route, policyTable: table.name };
    if (table.overlay) {
      return found && (!plain || found.match.length >= plain.match.length) ? found : plain;
    }
    if (found) return found;
  }
  return plain;
}

/** The weight of a candidate among those that it shares the load with: as written, else 1. */
export function weightOf({ candidates, devices, plan }: Network, c: number): number {
  if (candidates.source[c] !== sourceCodes.static) return 1;
  const device = plan.devices[candidates.device[c]];
  const record = devices[candidates.device[c]];
  const table = candidates.table[c] - record.vrfs.length;
  const routes = table < 0 ? device.routes : device.policyTables[table].routes;
  return routes[candidates.order[c]]?.weight ?? 1;
}

/** VRFs that a route is followed through before it counts as leading nowhere. */
export const MAX_VRFS = 8;

export interface RouteEnd {
  readonly hop: NextHop;
  readonly isDefault: boolean;
}

/** The next hops that a route comes to, in other VRFs where it leads there (rule 5.4); `ask` looks up in one of those. */
export function endsOfRoute(
  world: World,
  device: DeviceRecord,
  found: RouteMatch | null,
  ask: (vrf: number) => RouteMatch | null,
  vrfs = 0,
): RouteEnd[] {
  if (!found || vrfs > MAX_VRFS) return [];
  const { network } = world.state;
  const { action, toVrf } = network.candidates;
  const isDefault = found.match.length === 0;
  return found.candidates.flatMap((c): RouteEnd[] => {
    if (action[c] === actionCodes.vrf) return endsOfRoute(world, device, ask(toVrf[c]), ask, vrfs + 1);
    if (action[c] !== actionCodes.forward) return [];
    return nextHopsOf(network, world.tablesOf(device.index), c).map((hop) => ({ hop, isDefault }));
  });
}

/** Whether two lookups found the same routes in the same table. */
export function sameRoute(a: RouteMatch, b: RouteMatch): boolean {
  return (
    a.policyTable === b.policyTable &&
    a.candidates.length === b.candidates.length &&
    a.candidates.every((c, i) => c === b.candidates[i])
  );
}

function match(network: Network, tables: DeviceTables, table: number, address: Address): GroupRoute | null {
  const group = longestMatch(network, tables, table, address);
  return group < 0 ? null : routeOf(network, tables, group);
}
