import { comparePrefix } from "../address/index.ts";
import { copyColumns, ownColumns, writeEntry } from "./columns.ts";
import type { Entry } from "./entry.ts";
import { holdingIn, type Matching, matchingOf } from "./matching.ts";
import { type Candidates, type DeviceLayout, type Groups, sourceCodes } from "./network.ts";

/** The same layout where the device's watches are counted from another number on. */
export function withWatchesFrom(layout: DeviceLayout, by: number): DeviceLayout {
  if (by === 0) return layout;
  const watch = layout.columns.watch.map((w) => (w < 0 ? w : w + by));
  return { ...layout, columns: { ...layout.columns, watch } };
}

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

/** Where a device's candidates and groups lie among all. */
export interface Span {
  readonly firstCandidate: number;
  readonly endCandidate: number;
  readonly firstGroup: number;
  readonly endGroup: number;
}

/** Lays the devices' candidates into columns, one device after the other. */
export function joinLayouts(layouts: readonly DeviceLayout[]): {
  candidates: Candidates;
  groups: Groups;
  spans: Span[];
} {
  const total = (size: (layout: DeviceLayout) => number) =>
    layouts.reduce((sum, layout) => sum + size(layout), 0);
  const count = total((layout) => layout.count);
  const groupCount = total((layout) => layout.groupStart.length);
  const columns = ownColumns(count);
  const placed = {
    device: new Int32Array(count),
    group: new Int32Array(count),
    protocol: new Int32Array(count),
    answer: new Int32Array(count).fill(-1),
    answering: new Int32Array(total((layout) => layout.answering.length)),
    coverStart: new Int32Array(count + 1),
    cover: new Int32Array(total((layout) => layout.cover.length)),
  };
  const groups = { start: new Int32Array(groupCount + 1), table: new Int32Array(groupCount) };
  const protocols = new Map<string, number>();
  const spans: Span[] = [];
  let c = 0;
  let g = 0;
  let k = 0;
  let slot = 0;
  for (const [d, layout] of layouts.entries()) {
    copyColumns(columns, layout.columns, c);
    placed.device.fill(d, c, c + layout.count);
    const codes = layout.protocols.map((protocol) => numbered(protocols, protocol));
    for (let i = 0; i < layout.count; i++) {
      placed.group[c + i] = g + layout.group[i];
      placed.protocol[c + i] = layout.protocol[i] < 0 ? -1 : codes[layout.protocol[i]];
      placed.coverStart[c + i] = k + layout.coverStart[i];
    }
    for (const i of layout.answering) {
      placed.answer[c + i] = slot;
      placed.answering[slot++] = c + i;
    }
    for (const cover of layout.cover) placed.cover[k++] = g + cover;
    for (const [i, start] of layout.groupStart.entries()) {
      groups.start[g + i] = c + start;
      groups.table[g + i] = layout.groupTable[i];
    }
    const end = { candidate: c + layout.count, group: g + layout.groupStart.length };
    spans.push({ firstCandidate: c, endCandidate: end.candidate, firstGroup: g, endGroup: end.group });
    c = end.candidate;
    g = end.group;
  }
  placed.coverStart[count] = k;
  groups.start[groupCount] = count;
  const candidates = { count, protocols: [...protocols.keys()], ...columns, ...placed };
  return { candidates, groups: { count: groupCount, ...groups }, spans };
}

/** A protocol's number in the order in which they are met; -1 for none. */
function numbered(protocols: Map<string, number>, protocol: string | null): number {
  if (!protocol) return -1;
  const known = protocols.get(protocol) ?? protocols.size;
  protocols.set(protocol, known);
  return known;
}
