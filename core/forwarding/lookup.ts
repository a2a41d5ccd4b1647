import { type Address, containsAddress, type Prefix } from "../address/index.ts";
import { actionCodes, type DeviceRecord, type Network } from "../network/index.ts";
import {
  type DeviceTables,
  type GroupRoute,
  longestMatch,
  type NextHop,
  nextHopsOf,
  routeOf,
} from "../rib/index.ts";
import type { World } from "./world.ts";

export interface Found {
  readonly match: Prefix;
  /** The candidates in use for it; several share the load. */
  readonly candidates: readonly number[];
  /** The policy table that answered, or null for the VRF's own. */
  readonly policyTable: string | null;
}

/**
 * The route for a packet at a device (rules 5.3 and 6.2): policy tables that its way in and its source
 * select, then the VRF's table. `source` null is a packet whose source is yet to be chosen.
 */
export function findRoute(
  world: World,
  device: DeviceRecord,
  vrf: number,
  incoming: number,
  source: Address | null,
  destination: Address,
): Found | null {
  const { network } = world.state;
  const tables = world.tablesOf(device.index);
  const plain = match(network, tables, vrf, destination);
  for (const table of device.policyTables) {
    if (table.vrf !== vrf) continue;
    if (table.incoming && !table.incoming.has(incoming)) continue;
    if (table.from && !(source && table.from.some((prefix) => containsAddress(prefix, source)))) continue;
    const route = match(network, tables, table.table, destination);
    const found = route && { ...route, policyTable: table.name };
    if (table.overlay) {
      return found && (!plain || found.match.length >= plain.match.length) ? found : plain;
    }
    if (found) return found;
  }
  return plain;
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
  found: Found | null,
  ask: (vrf: number) => Found | null,
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
export function sameRoute(a: Found, b: Found): boolean {
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
