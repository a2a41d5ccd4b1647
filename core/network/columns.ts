import type { Entry } from "./entry.ts";
import { type Candidates, faults } from "./network.ts";

/** The columns of candidates that say what each of them is by itself, whatever stands beside it. */
export function ownColumns(count: number) {
  const int = () => new Int32Array(count);
  const byte = () => new Uint8Array(count);
  return {
    table: int(),
    source: byte(),
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
    order: int(),
  };
}

/** Those columns, wherever their memory lies. */
export type OwnColumns = Pick<Candidates, keyof ReturnType<typeof ownColumns>>;

/** Writes an entry into a line of the columns. */
export function writeEntry(columns: OwnColumns, c: number, entry: Entry) {
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

/** The names of those columns. */
const columnNames = Object.keys(ownColumns(0)) as (keyof OwnColumns)[];

/** Copies lines into those of the network, to line `at` and on; all of them, or those from one up to another. */
export function copyColumns(
  to: OwnColumns,
  from: OwnColumns,
  at: number,
  start = 0,
  end = from.table.length,
) {
  for (const name of columnNames) {
    const words = name === "destination" || name === "via" ? 4 : 1;
    to[name].set(from[name].subarray(start * words, end * words), at * words);
  }
}

/** Those columns with room for more lines. */
export function withRoom(columns: OwnColumns, count: number): OwnColumns {
  const larger = ownColumns(count);
  copyColumns(larger, columns, 0);
  return larger;
}

/** Those columns with the lines in another order: `order` says which stands at each place. */
export function gathered(from: OwnColumns, order: Uint32Array): OwnColumns {
  const to = ownColumns(order.length);
  for (const name of columnNames) {
    const [a, b] = [from[name], to[name]];
    if (name === "destination" || name === "via") {
      for (let i = 0; i < order.length; i++) for (let w = 0; w < 4; w++) b[i * 4 + w] = a[order[i] * 4 + w];
    } else for (let i = 0; i < order.length; i++) b[i] = a[order[i]];
  }
  return to;
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
