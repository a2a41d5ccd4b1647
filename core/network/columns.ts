import { Block } from "../collections/index.ts";
import type { Entry } from "./entry.ts";
import { type Candidates, faults } from "./network.ts";

/** Columns that describe each candidate alone, independent of its neighbors in the table. */
export function ownColumns(count: number) {
  const block = new Block(count * BYTES_A_LINE);
  const int = () => block.ints(count);
  const byte = () => block.bytes(count);
  return {
    metric: block.floats(count),
    destination: block.words(count * 4),
    via: block.words(count * 4),
    table: int(),
    out: int(),
    peer: int(),
    distance: int(),
    toVrf: int(),
    watch: int(),
    order: int(),
    source: byte(),
    family: byte(),
    length: byte(),
    hasVia: byte(),
    resolve: byte(),
    action: byte(),
    fault: byte(),
  };
}

const BYTES_A_LINE = 8 + 2 * 4 * 4 + 7 * 4 + 7;

/** Those columns, wherever their memory lies. */
export type OwnColumns = Pick<Candidates, keyof ReturnType<typeof ownColumns>>;

/** Writes an entry into a line of the columns. */
function writeEntry(columns: OwnColumns, c: number, entry: Entry) {
  const { address, length } = entry.to;
  columns.table[c] = entry.table;
  columns.source[c] = entry.source;
  columns.family[c] = address.family;
  writeWords(columns.destination, c, address);
  columns.length[c] = length;
  columns.hasVia[c] = Number(entry.via !== null);
  writeWords(columns.via, c, entry.via ?? noAddress);
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

/** The names of those columns. */
const columnNames = Object.keys(ownColumns(0)) as (keyof OwnColumns)[];

/** Below this many rows, copying row by row is faster than column by column. */
const FEW = 64;

/** Copies lines into those of the network, to line `at` and on; all of them, or those from one up to another. */
export function copyColumns(
  to: OwnColumns,
  from: OwnColumns,
  at: number,
  start = 0,
  end = from.table.length,
) {
  if (end - start < FEW) {
    for (let c = start; c < end; c++) copyLine(to, at + c - start, from, c);
    return;
  }
  for (const name of columnNames) {
    const words = name === "destination" || name === "via" ? 4 : 1;
    to[name].set(from[name].subarray(start * words, end * words), at * words);
  }
}

/** Those columns with the lines in another order: `order` says which stands at each place. */
function gathered(from: OwnColumns, order: Uint32Array): OwnColumns {
  const to = ownColumns(order.length);
  for (let c = 0; c < order.length; c++) copyLine(to, c, from, order[c]);
  return to;
}

/** Copies line `c` to line `at`. Column after column by name: a loop over names, whose arrays are of several kinds, takes far longer. */
function copyLine(to: OwnColumns, at: number, from: OwnColumns, c: number) {
  to.table[at] = from.table[c];
  to.source[at] = from.source[c];
  to.family[at] = from.family[c];
  for (let w = 0; w < 4; w++) to.destination[at * 4 + w] = from.destination[c * 4 + w];
  to.length[at] = from.length[c];
  to.hasVia[at] = from.hasVia[c];
  for (let w = 0; w < 4; w++) to.via[at * 4 + w] = from.via[c * 4 + w];
  to.out[at] = from.out[c];
  to.peer[at] = from.peer[c];
  to.distance[at] = from.distance[c];
  to.metric[at] = from.metric[c];
  to.resolve[at] = from.resolve[c];
  to.action[at] = from.action[c];
  to.toVrf[at] = from.toVrf[c];
  to.watch[at] = from.watch[c];
  to.fault[at] = from.fault[c];
  to.order[at] = from.order[c];
}

/** Initial capacity of the build buffer in rows, and the most that is kept between uses. */
const ROOM = { first: 256, kept: 16384 };

let spare: OwnColumns | null = null;

/**
 * Columns to write into line by line and to gather from. The next desk is given the same memory: for most devices, making
 * columns takes longer than filling them.
 */
export class Desk {
  columns: OwnColumns = spare ?? ownColumns(ROOM.first);
  count = 0;

  constructor() {
    spare = null;
  }

  /** Writes an entry into the next line; gives its number. */
  add(entry: Entry): number {
    if (this.count === this.columns.table.length) this.grow();
    writeEntry(this.columns, this.count, entry);
    return this.count++;
  }

  private grow() {
    const larger = ownColumns(this.count * 2);
    copyColumns(larger, this.columns, 0);
    this.columns = larger;
  }

  /** The lines in another order; nothing more can be asked of the desk. */
  clear(order: Uint32Array): OwnColumns {
    const ordered = gathered(this.columns, order);
    if (this.columns.table.length <= ROOM.kept) spare = this.columns;
    return ordered;
  }
}

const noAddress = { w0: 0, w1: 0, w2: 0, w3: 0 };

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
