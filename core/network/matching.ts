import {
  type Address,
  buildOrderedTable,
  type Family,
  type PrefixColumns,
  type RangeTable,
  rangeOf,
} from "../address/index.ts";

/**
 * Which destinations of a device hold an address, whatever state its routes are in. Groups are counted from the
 * device's first.
 */
export interface Matching {
  /** The longest destination of each range: `tables[table * 2 + (family === 6)]` answers with groups. */
  readonly tables: readonly RangeTable[];
  /** The next shorter destination of the same table that holds a group's, or -1. */
  readonly shorter: Int32Array;
}

/** Builds it from groups in the order of a layout: by table, family and prefix. Time O(groups). */
export function matchingOf(
  { groupStart, groupTable }: { groupStart: Int32Array; groupTable: Int32Array },
  columns: PrefixColumns & { readonly family: Uint8Array },
  tableCount: number,
): Matching {
  const groups = groupStart.length;
  const shorter = new Int32Array(groups).fill(-1);
  const tables: RangeTable[] = [];
  let g = 0;
  for (let table = 0; table < tableCount; table++) {
    for (const family of [4, 6] as const) {
      const from = g;
      while (g < groups && groupTable[g] === table && columns.family[groupStart[g]] === family) g++;
      const built = buildOrderedTable(family, columns, groupStart, from, g);
      shorter.set(built.parents, from);
      tables.push(built.table);
    }
  }
  return { tables, shorter };
}

/** The longest destination of a table that holds an address, in use or not, as a group of the device; -1 for none. */
export function longestHolding({ tables }: Matching, table: number, address: Address): number {
  const found = tables[table * 2 + (address.family === 6 ? 1 : 0)];
  return found.values[rangeOf(found, address)];
}

/** Calls for each group of the device, in any table, whose destination holds an address. */
export function forEachHolding(matching: Matching, address: Address, call: (group: number) => void) {
  const family: Family = address.family;
  for (let t = family === 6 ? 1 : 0; t < matching.tables.length; t += 2) {
    const found = matching.tables[t];
    for (let g = found.values[rangeOf(found, address)]; g >= 0; g = matching.shorter[g]) call(g);
  }
}

/** The groups of a table whose destination holds an address, the longest first. */
export function holdingIn(matching: Matching, table: number, address: Address): number[] {
  const list: number[] = [];
  for (let g = longestHolding(matching, table, address); g >= 0; g = matching.shorter[g]) list.push(g);
  return list;
}
