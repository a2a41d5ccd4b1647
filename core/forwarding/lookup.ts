import { type Address, containsAddress, type Prefix } from "../address/index.ts";
import type { DeviceRecord, Network } from "../network/index.ts";
import { type DeviceTables, type GroupRoute, longestMatch, routeOf } from "../routing/index.ts";
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

function match(network: Network, tables: DeviceTables, table: number, address: Address): GroupRoute | null {
  const group = longestMatch(tables, table, address);
  return group < 0 ? null : routeOf(network, tables, group);
}
