import { comparePrefix, type Prefix, prefixOf } from "../address/index.ts";
import type { Entry } from "./entry.ts";
import { type Candidates, faults, type Groups, sourceCodes } from "./network.ts";

/** One device's candidates in order, those of one destination together; all numbers count from the device's first. */
export interface DeviceLayout {
  readonly entries: readonly Entry[];
  /** The group of each entry. */
  readonly group: readonly number[];
  /** First entry of each group, and the table that it stands in. */
  readonly groupStart: readonly number[];
  readonly groupTable: readonly number[];
  /** For each entry, where its covers begin; one more at the end. Covers are groups, the longest first. */
  readonly coverStart: readonly number[];
  readonly cover: readonly number[];
}

/** Puts a device's candidates in order and finds what its next hops may resolve through. */
export function layDevice(unsorted: readonly Entry[]): DeviceLayout {
  const entries = [...unsorted].sort(
    (a, b) => a.table - b.table || comparePrefix(a.to, b.to) || a.source - b.source || a.order - b.order,
  );
  const group: number[] = [];
  const groupStart: number[] = [];
  const groupTable: number[] = [];
  for (const [i, entry] of entries.entries()) {
    const previous = entries[i - 1];
    if (!previous || previous.table !== entry.table || comparePrefix(previous.to, entry.to) !== 0) {
      groupStart.push(i);
      groupTable.push(entry.table);
    }
    group.push(groupStart.length - 1);
  }
  return { entries, group, groupStart, groupTable, ...coversOf(entries, groupStart, groupTable) };
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
      cover.push(...covers);
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
  const count = total((layout) => layout.entries.length);
  const groupCount = total((layout) => layout.groupStart.length);
  const columns = emptyColumns(
    count,
    total((layout) => layout.cover.length),
  );
  const groups = { start: new Int32Array(groupCount + 1), table: new Int32Array(groupCount) };
  const protocols = new Map<string, number>();
  const answering: number[] = [];
  const spans: Span[] = [];
  let c = 0;
  let g = 0;
  let k = 0;
  for (const [d, layout] of layouts.entries()) {
    const firstCandidate = c;
    const firstGroup = g;
    for (const [i, entry] of layout.entries.entries()) {
      columns.device[c] = d;
      columns.group[c] = firstGroup + layout.group[i];
      columns.protocol[c] = numbered(protocols, entry.protocol);
      columns.coverStart[c] = k + layout.coverStart[i];
      if (entry.needsAnswer && entry.source !== sourceCodes.connected) {
        columns.answer[c] = answering.push(c) - 1;
      }
      writeEntry(columns, c++, entry);
    }
    for (const cover of layout.cover) columns.cover[k++] = firstGroup + cover;
    for (const [i, start] of layout.groupStart.entries()) {
      groups.start[g] = firstCandidate + start;
      groups.table[g++] = layout.groupTable[i];
    }
    spans.push({ firstCandidate, endCandidate: c, firstGroup, endGroup: g });
  }
  columns.coverStart[count] = k;
  groups.start[groupCount] = count;
  return {
    candidates: {
      count,
      protocols: [...protocols.keys()],
      ...columns,
      answering: Int32Array.from(answering),
    },
    groups: { count: groupCount, ...groups },
    spans,
  };
}

function emptyColumns(count: number, covers: number) {
  const int = () => new Int32Array(count);
  const byte = () => new Uint8Array(count);
  return {
    device: int(),
    table: int(),
    group: int(),
    source: byte(),
    protocol: int(),
    family: byte(),
    destination: new Uint32Array(count * 4),
    length: byte(),
    hasVia: byte(),
    via: new Uint32Array(count * 4),
    out: int(),
    peer: int(),
    distance: int(),
    metric: new Float64Array(count),
    resolve: byte(),
    action: byte(),
    toVrf: int(),
    watch: int(),
    fault: byte(),
    answer: int().fill(-1),
    order: int(),
    coverStart: new Int32Array(count + 1),
    cover: new Int32Array(covers),
  };
}

/** What an entry says by itself; where it stands among the others, `joinLayouts` writes. */
function writeEntry(columns: ReturnType<typeof emptyColumns>, c: number, entry: Entry) {
  const { address, length } = entry.to;
  columns.table[c] = entry.table;
  columns.source[c] = entry.source;
  columns.family[c] = address.family;
  writeWords(columns.destination, c, address);
  columns.length[c] = length;
  if (entry.via) {
    columns.hasVia[c] = 1;
    writeWords(columns.via, c, entry.via);
  }
  columns.out[c] = entry.out;
  columns.peer[c] = entry.peer;
  columns.distance[c] = entry.distance;
  columns.metric[c] = entry.metric;
  columns.resolve[c] = entry.resolve;
  columns.action[c] = entry.action;
  columns.toVrf[c] = entry.toVrf;
  columns.watch[c] = entry.watch;
  columns.fault[c] = faults.indexOf(entry.fault);
  columns.order[c] = entry.order;
}

/** A protocol's number in the order in which they are met; -1 for none. */
function numbered(protocols: Map<string, number>, protocol: string | null): number {
  if (!protocol) return -1;
  const known = protocols.get(protocol) ?? protocols.size;
  protocols.set(protocol, known);
  return known;
}

function writeWords(
  column: Uint32Array,
  at: number,
  { w0, w1, w2, w3 }: { w0: number; w1: number; w2: number; w3: number },
) {
  column[at * 4] = w0;
  column[at * 4 + 1] = w1;
  column[at * 4 + 2] = w2;
  column[at * 4 + 3] = w3;
}
