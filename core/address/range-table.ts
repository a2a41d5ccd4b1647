import { type Address, type Family, makeAddress, nextAddress } from "./address.ts";
import { comparePrefix, containsPrefix, lastOf, type Prefix } from "./prefix.ts";

/** How many ranges a table needs before an index over the first sixteen bits pays for itself. */
const INDEX_FROM = 2048;

/** Longest-prefix matching over prefixes of one family, on flat numeric arrays that transfer to a worker without
 * copying. The prefixes cut the address space into ranges. Range i starts at `starts[i * words]`; `values[i]` is the
 * list position of its longest matching prefix, or -1 without a match. A lookup is one binary search. */
export interface RangeTable {
  readonly family: Family;
  /** First address of each range, ascending; one 32-bit word a range for IPv4, four for IPv6. */
  readonly starts: Uint32Array;
  readonly values: Int32Array;
  /** For large tables: the last range that starts at or before each 16-bit leading value. */
  readonly index: Uint32Array | null;
}

/**
 * Builds the table. Where a prefix stands twice in the list, the first is found.
 * Time O(n log n) for n prefixes; at most 2n + 1 ranges.
 */
export function buildRangeTable(family: Family, prefixes: readonly Prefix[]): RangeTable {
  const order = prefixes.map((_, i) => i).sort((a, b) => comparePrefix(prefixes[a], prefixes[b]) || a - b);
  const starts: Address[] = [];
  const values: number[] = [];
  const put = (start: Address, value: number) => {
    const at = starts.length - 1;
    if (at >= 0 && compareWords(starts[at], start) === 0) {
      values[at] = value;
      if (at > 0 && values[at - 1] === value) {
        starts.pop();
        values.pop();
      }
    } else if (at < 0 || values[at] !== value) {
      starts.push(start);
      values.push(value);
    }
  };
  put(makeAddress(family, 0), -1);
  /** Prefixes that hold the current place, the widest first, with the address after their end. */
  const open: { value: number; after: Address | null }[] = [];
  const closeBefore = (start: Address | null) => {
    for (;;) {
      const top = open[open.length - 1];
      if (!top?.after || (start && compareWords(top.after, start) > 0)) return;
      open.pop();
      put(top.after, open.length ? open[open.length - 1].value : -1);
    }
  };
  let previous = -1;
  for (const i of order) {
    const prefix = prefixes[i];
    if (previous >= 0 && comparePrefix(prefixes[previous], prefix) === 0) continue;
    previous = i;
    closeBefore(prefix.address);
    put(prefix.address, i);
    open.push({ value: i, after: nextAddress(lastOf(prefix)) });
  }
  closeBefore(null);
  return pack(family, starts, values);
}

/** Prefixes in columns: four words an address, one length a line. */
export interface PrefixColumns {
  readonly destination: Uint32Array;
  readonly length: Uint8Array;
}

/**
 * The same from prefixes that lie in columns in their order (`comparePrefix`), each once: prefix `k`, from `from` up to
 * but not including `to`, stands in line `lines[k]`, and `k` itself is what a lookup answers. `parents[k - from]` is
 * the next shorter prefix that holds prefix `k`, or -1. Time O(n): IPv4 takes no object a prefix.
 */
export function buildOrderedTable(
  family: Family,
  columns: PrefixColumns,
  lines: Int32Array,
  from: number,
  to: number,
): { table: RangeTable; parents: Int32Array } {
  if (from === to) return nothing[family];
  return family === 4 ? orderedFour(columns, lines, from, to) : orderedSix(columns, lines, from, to);
}

/** The table of no prefix at all: one for all devices without routes of a family. */
const nothing = {
  4: { table: buildRangeTable(4, []), parents: new Int32Array(0) },
  6: { table: buildRangeTable(6, []), parents: new Int32Array(0) },
};

/** The prefixes that contain the current position, widest first, and where they end. At most one per length is nested.
 * */
const open = new Int32Array(34);
const ends = new Float64Array(34);

function orderedFour({ destination, length }: PrefixColumns, lines: Int32Array, from: number, to: number) {
  const count = to - from;
  const starts = new Uint32Array(2 * count + 1);
  const values = new Int32Array(2 * count + 1);
  const parents = new Int32Array(count).fill(-1);
  let depth = 0;
  let used = 1;
  values[0] = -1;
  const put = (start: number, value: number) => {
    if (starts[used - 1] === start) {
      values[used - 1] = value;
      if (used > 1 && values[used - 2] === value) used--;
    } else if (values[used - 1] !== value) {
      starts[used] = start;
      values[used++] = value;
    }
  };
  const closeBefore = (start: number) => {
    while (depth > 0 && ends[depth - 1] <= start) {
      const end = ends[--depth];
      if (end < 2 ** 32) put(end, depth > 0 ? open[depth - 1] : -1);
    }
  };
  for (let k = from; k < to; k++) {
    const start = destination[lines[k] * 4];
    closeBefore(start);
    if (depth > 0) parents[k - from] = open[depth - 1];
    put(start, k);
    open[depth] = k;
    ends[depth++] = start + 2 ** (32 - length[lines[k]]);
  }
  closeBefore(2 ** 32);
  const flat = starts.slice(0, used);
  return {
    table: { family: 4 as const, starts: flat, values: values.slice(0, used), index: indexOf(flat, 1) },
    parents,
  };
}

function orderedSix({ destination, length }: PrefixColumns, lines: Int32Array, from: number, to: number) {
  const prefixes: Prefix[] = [];
  for (let k = from; k < to; k++) {
    const at = lines[k] * 4;
    const [w0, w1, w2, w3] = destination.subarray(at, at + 4);
    prefixes.push({ address: { family: 6, w0, w1, w2, w3 }, length: length[lines[k]] });
  }
  const { values, ...table } = buildRangeTable(6, prefixes);
  const parents = new Int32Array(to - from).fill(-1);
  const open: number[] = [];
  for (const [n, prefix] of prefixes.entries()) {
    while (open.length && !containsPrefix(prefixes[open[open.length - 1]], prefix)) open.pop();
    if (open.length) parents[n] = from + open[open.length - 1];
    open.push(n);
  }
  return { table: { ...table, values: values.map((value) => (value < 0 ? -1 : from + value)) }, parents };
}

function compareWords(a: Address, b: Address): number {
  return a.w0 - b.w0 || a.w1 - b.w1 || a.w2 - b.w2 || a.w3 - b.w3;
}

function pack(family: Family, starts: Address[], values: number[]): RangeTable {
  const words = family === 4 ? 1 : 4;
  const flat = new Uint32Array(starts.length * words);
  for (const [i, start] of starts.entries()) {
    if (words === 1) flat[i] = start.w0;
    else flat.set([start.w0, start.w1, start.w2, start.w3], i * 4);
  }
  return { family, starts: flat, values: Int32Array.from(values), index: indexOf(flat, words) };
}

/** Only IPv4 tables are indexed: an IPv6 plan's prefixes mostly share their first sixteen bits. */
function indexOf(starts: Uint32Array, words: number): Uint32Array | null {
  if (words !== 1 || starts.length < INDEX_FROM) return null;
  const index = new Uint32Array(65537);
  let at = 0;
  for (let lead = 0; lead < 65536; lead++) {
    while (at + 1 < starts.length && starts[at + 1] <= lead * 65536) at++;
    index[lead] = at;
  }
  index[65536] = starts.length - 1;
  return index;
}

/** The range that holds the address: its position in `values`. The address is of the table's family. */
export function rangeOf(table: RangeTable, a: Address): number {
  return table.family === 4 ? rangeOf4(table, a.w0) : rangeOf6(table, a);
}

/** Like `rangeOf` with an IPv4 address given as an unsigned 32-bit number. */
export function rangeOf4(table: RangeTable, address: number): number {
  const { starts, index } = table;
  let low = 0;
  let high = starts.length - 1;
  if (index) {
    const lead = address >>> 16;
    low = index[lead];
    high = index[lead + 1];
  }
  while (low < high) {
    const middle = (low + high + 1) >>> 1;
    if (starts[middle] <= address) low = middle;
    else high = middle - 1;
  }
  return low;
}

function rangeOf6(table: RangeTable, a: Address): number {
  const { starts } = table;
  let low = 0;
  let high = starts.length / 4 - 1;
  while (low < high) {
    const middle = (low + high + 1) >>> 1;
    const at = middle * 4;
    const order =
      starts[at] - a.w0 || starts[at + 1] - a.w1 || starts[at + 2] - a.w2 || starts[at + 3] - a.w3;
    if (order <= 0) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** Longest-prefix match: the position of the prefix in the list the table was built from, or -1. */
export function lookup(table: RangeTable, a: Address): number {
  return table.values[rangeOf(table, a)];
}
