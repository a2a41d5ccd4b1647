import { type Address, containsAddress, type Prefix } from "../address/index.ts";
import { type DeviceRecord, destinationOf } from "../network/index.ts";
import { type DeviceTables, inUse, longestMatch } from "../routing/index.ts";
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
  const tables = world.tablesOf(device.index);
  const plain = match(tables, vrf, destination, null);
  for (const table of device.policyTables) {
    if (table.vrf !== vrf) continue;
    if (table.incoming && !table.incoming.has(incoming)) continue;
    if (table.from && !(source && table.from.some((prefix) => containsAddress(prefix, source)))) continue;
    const found = match(tables, table.table, destination, table.name);
    if (table.overlay) {
      return found && (!plain || found.match.length >= plain.match.length) ? found : plain;
    }
    if (found) return found;
  }
  return plain;

  function match(
    of: DeviceTables,
    table: number,
    address: Address,
    policyTable: string | null,
  ): Found | null {
    const { network } = world.state;
    const group = longestMatch(of, table, address);
    if (group < 0) return null;
    const candidates = inUse(network, of, group);
    return { match: destinationOf(network, candidates[0]), candidates, policyTable };
  }
}
