import { comparePrefix } from "../address/index.ts";
import { ownColumns, writeEntry } from "./columns.ts";
import type { Entry } from "./entry.ts";
import { holdingIn, type Matching, matchingOf } from "./matching.ts";
import { type DeviceLayout, sourceCodes } from "./network.ts";

/**
 * Puts a device's candidates in order and finds what its next hops may resolve through. `tableCount` are its route
 * tables. Time O(n log n), with no object for each but the entry itself.
 */
export function layDevice(entries: readonly Entry[], tableCount: number): DeviceLayout {
  const order = inOrder(entries);
  const count = entries.length;
  const columns = ownColumns(count);
  const group = new Int32Array(count);
  const protocol = new Int32Array(count);
  const protocols = new Map<string, number>();
  const answering: number[] = [];
  const starts: number[] = [];
  const tables: number[] = [];
  for (let i = 0; i < count; i++) {
    const entry = entries[order[i]];
    const previous = i > 0 ? entries[order[i - 1]] : null;
    if (!previous || previous.table !== entry.table || comparePrefix(previous.to, entry.to) !== 0) {
      starts.push(i);
      tables.push(entry.table);
    }
    group[i] = starts.length - 1;
    protocol[i] = numbered(protocols, entry.protocol);
    if (entry.needsAnswer && entry.source !== sourceCodes.connected) answering.push(i);
    writeEntry(columns, i, entry);
  }
  const groups = { groupStart: Int32Array.from(starts), groupTable: Int32Array.from(tables) };
  const matching = matchingOf(groups, columns, tableCount);
  return {
    count,
    columns,
    group,
    protocol,
    protocols: [...protocols.keys()],
    answering: Int32Array.from(answering),
    ...groups,
    matching,
    ...coversOf(entries, order, matching),
  };
}

/** The order of candidates: by table, destination, source and place. */
function inOrder(entries: readonly Entry[]): Uint32Array {
  // Most are told apart by table, family, first word and, for IPv4, length: one number, exact as long as it has 53 bits.
  const keys = Float64Array.from(entries, ({ table, to: { address, length } }) => {
    const six = address.family === 6;
    return ((table * 2 + Number(six)) * 2 ** 32 + address.w0) * 64 + (six ? 0 : length);
  });
  return Uint32Array.from(entries, (_, i) => i).sort((a, b) => {
    if (keys[a] !== keys[b]) return keys[a] - keys[b];
    const [one, other] = [entries[a], entries[b]];
    return comparePrefix(one.to, other.to) || one.source - other.source || one.order - other.order || a - b;
  });
}

/** For each next hop that must be resolved, the destinations that hold it, longest first. */
function coversOf(
  entries: readonly Entry[],
  order: Uint32Array,
  matching: Matching,
): { coverStart: Int32Array; cover: Int32Array } {
  const found = new Map<string, readonly number[]>();
  const coverStart = new Int32Array(entries.length + 1);
  const cover: number[] = [];
  for (let i = 0; i < entries.length; i++) {
    const { recursive, via, vrf } = entries[order[i]];
    if (recursive && via) {
      const key = `${vrf} ${via.family} ${via.w0}.${via.w1}.${via.w2}.${via.w3}`;
      let covers = found.get(key);
      if (!covers) {
        covers = holdingIn(matching, vrf, via);
        found.set(key, covers);
      }
      for (const group of covers) cover.push(group);
    }
    coverStart[i + 1] = cover.length;
  }
  return { coverStart, cover: Int32Array.from(cover) };
}

/** A protocol's number in the order in which they are met; -1 for none. */
export function numbered(protocols: Map<string, number>, protocol: string | null): number {
  if (!protocol) return -1;
  const known = protocols.get(protocol) ?? protocols.size;
  protocols.set(protocol, known);
  return known;
}
