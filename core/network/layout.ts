import { comparePrefix, type Prefix, prefixOf } from "../address/index.ts";
import { copyColumns, type OwnColumns, ownColumns, writeEntry } from "./columns.ts";
import type { Entry } from "./entry.ts";
import { type Candidates, type Groups, sourceCodes } from "./network.ts";

/**
 * One device's candidates in order, those of one destination together, in columns; all numbers count from the device's
 * first. What an edit leaves alone is kept from one network to the next.
 */
export interface DeviceLayout {
  readonly count: number;
  readonly columns: OwnColumns;
  /** The group of each candidate. */
  readonly group: Int32Array;
  /** For learned and handed-out routes, the protocol's place in `protocols`; else -1. */
  readonly protocol: Int32Array;
  readonly protocols: readonly string[];
  /** Candidates that depend on a neighbour's answer, ascending. */
  readonly answering: Int32Array;
  /** First candidate of each group, and the table that it stands in; the very same list in networks where they are the same. */
  readonly groupStart: Int32Array;
  readonly groupTable: Int32Array;
  /** For each candidate, where its covers begin; one more at the end. Covers are groups, the longest first. */
  readonly coverStart: Int32Array;
  readonly cover: Int32Array;
}

/** The same layout where the device's watches are counted from another number on. */
export function withWatchesFrom(layout: DeviceLayout, by: number): DeviceLayout {
  if (by === 0) return layout;
  const watch = layout.columns.watch.map((w) => (w < 0 ? w : w + by));
  return { ...layout, columns: { ...layout.columns, watch } };
}

/** Puts a device's candidates in order and finds what its next hops may resolve through. */
export function layDevice(unsorted: readonly Entry[]): DeviceLayout {
  const entries = [...unsorted].sort(
    (a, b) => a.table - b.table || comparePrefix(a.to, b.to) || a.source - b.source || a.order - b.order,
  );
  const count = entries.length;
  const columns = ownColumns(count);
  const group = new Int32Array(count);
  const protocol = new Int32Array(count);
  const protocols = new Map<string, number>();
  const answering: number[] = [];
  const groupStart: number[] = [];
  const groupTable: number[] = [];
  for (const [i, entry] of entries.entries()) {
    const previous = entries[i - 1];
    if (!previous || previous.table !== entry.table || comparePrefix(previous.to, entry.to) !== 0) {
      groupStart.push(i);
      groupTable.push(entry.table);
    }
    group[i] = groupStart.length - 1;
    protocol[i] = numbered(protocols, entry.protocol);
    if (entry.needsAnswer && entry.source !== sourceCodes.connected) answering.push(i);
    writeEntry(columns, i, entry);
  }
  const covers = coversOf(entries, groupStart, groupTable);
  return {
    count,
    columns,
    group,
    protocol,
    protocols: [...protocols.keys()],
    answering: Int32Array.from(answering),
    groupStart: Int32Array.from(groupStart),
    groupTable: Int32Array.from(groupTable),
    coverStart: Int32Array.from(covers.coverStart),
    cover: Int32Array.from(covers.cover),
  };
}

/** For each next hop that must be resolved, the destinations that hold it, longest first. */
function coversOf(entries: readonly Entry[], groupStart: readonly number[], groupTable: readonly number[]) {
  const groups = new Map<string, number>();
  const lengths = new Map<string, Set<number>>();
  for (const [g, start] of groupStart.entries()) {
    const { to } = entries[start];
    groups.set(keyOf(groupTable[g], to), g);
    const family = `${groupTable[g]} ${to.address.family}`;
    const known = lengths.get(family);
    if (known) known.add(to.length);
    else lengths.set(family, new Set([to.length]));
  }
  const longestFirst = new Map([...lengths].map(([key, set]) => [key, [...set].sort((a, b) => b - a)]));
  const found = new Map<string, number[]>();
  const coverStart = [0];
  const cover: number[] = [];
  for (const { recursive, via, vrf } of entries) {
    if (recursive && via) {
      const key = keyOf(vrf, { address: via, length: 128 });
      let covers = found.get(key);
      if (!covers) {
        covers = (longestFirst.get(`${vrf} ${via.family}`) ?? [])
          .map((length) => groups.get(keyOf(vrf, prefixOf(via, length))))
          .filter((g) => g !== undefined);
        found.set(key, covers);
      }
      for (const group of covers) cover.push(group);
    }
    coverStart.push(cover.length);
  }
  return { coverStart, cover };
}

function keyOf(table: number, prefix: Prefix): string {
  const { address, length } = prefix;
  return `${table} ${address.family} ${address.w0}.${address.w1}.${address.w2}.${address.w3}/${length}`;
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
