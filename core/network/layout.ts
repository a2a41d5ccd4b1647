import { type Family, widthOf } from "../address/index.ts";
import { orderOf } from "../collections/index.ts";
import { Desk, type OwnColumns } from "./columns.ts";
import type { Entry } from "./entry.ts";
import { holdingIn, type Matching, matchingOf } from "./matching.ts";
import { addressAt, type DeviceLayout, endsOf, type Interfaces, type Links, sourceCodes } from "./network.ts";
import { type Key, keyOf } from "./subnets.ts";

/** Sorts a device's candidates and finds the interfaces their next hops may resolve through. `tableCount` is its number
 * of route tables, `firstInterface` its first interface in `ports`. O(n): each entry is read once, in the order of
 * creation, because a large table does not fit into the cache. */
export function sortDevice(
  entries: Iterable<Entry>,
  tableCount: number,
  firstInterface: number,
  ports: Wired,
): DeviceLayout {
  const desk = new Desk();
  const protocols = new Map<string, number>();
  const protocolAsMade: number[] = [];
  const answers: boolean[] = [];
  /** The VRF that resolves a next hop; -1 if it is not resolved. */
  const through: number[] = [];
  for (const entry of entries) {
    const c = desk.add(entry);
    const { out, peer } = desk.columns;
    if (entry.out >= 0) out[c] = entry.out - firstInterface;
    if (entry.peer >= 0) peer[c] = placeOnLink(ports, entry.out, entry.peer);
    protocolAsMade.push(numbered(protocols, entry.protocol));
    answers.push(entry.needsAnswer && entry.source !== sourceCodes.connected);
    through.push(entry.recursive && entry.via ? entry.vrf : -1);
  }
  const { count } = desk;
  const order = inOrder(desk.columns, count);
  const columns = desk.clear(order);
  const group = new Int32Array(count);
  const answering: number[] = [];
  const starts: number[] = [];
  for (let i = 0; i < count; i++) {
    if (i === 0 || !sameDestination(columns, i - 1, i)) starts.push(i);
    group[i] = starts.length - 1;
    if (answers[order[i]]) answering.push(i);
  }
  const groupStart = new Int32Array(starts);
  const groups = { groupStart, groupTable: groupStart.map((start) => columns.table[start]) };
  const matching = matchingOf(groups, columns, tableCount);
  return {
    count,
    columns,
    group,
    ...protocolsInOrder(protocolAsMade, [...protocols.keys()], order),
    answering: new Int32Array(answering),
    ...groups,
    matching,
    ...coversOf(columns, (i) => through[order[i]], matching),
  };
}

/** Which interfaces are on a link. */
export type Wired = { readonly interfaces: Pick<Interfaces, "link">; readonly links: Links };

/** The place of a far interface among the ends of a link: it stays the same where interfaces elsewhere get other numbers. */
function placeOnLink({ interfaces, links }: Wired, out: number, peer: number): number {
  return Array.from(endsOf(links, interfaces.link[out])).indexOf(peer);
}

/** The candidates' protocols, numbered as they are met in the candidates' order. */
function protocolsInOrder(asMade: readonly number[], names: readonly string[], order: Uint32Array) {
  if (names.length === 0) return { protocol: new Int32Array(order.length).fill(-1), protocols: [] };
  const protocols = new Map<string, number>();
  const protocol = new Int32Array(order.length);
  for (let i = 0; i < order.length; i++) protocol[i] = numbered(protocols, names[asMade[order[i]]] ?? null);
  return { protocol, protocols: [...protocols.keys()] };
}

/** The order of candidates: by table, destination, source and place. */
function inOrder(columns: OwnColumns, count: number): Uint32Array {
  const { table, family, destination, length } = columns;
  // Most keys are one exact number of up to 53 bits: table, family, first word and, for IPv4, length.
  const keys = new Float64Array(count);
  for (let i = 0; i < keys.length; i++) {
    const six = family[i] === 6;
    keys[i] = ((table[i] * 2 + Number(six)) * 2 ** 32 + destination[i * 4]) * 64 + (six ? 0 : length[i]);
  }
  const order = orderOf(keys);
  for (let from = 0; from < order.length; ) {
    let end = from + 1;
    while (end < order.length && keys[order[end]] === keys[order[from]]) end++;
    if (end - from > 1) order.subarray(from, end).sort((a, b) => compareLines(columns, a, b));
    from = end;
  }
  return order;
}

/** Compares two candidates of which table, family and first word are the same. */
function compareLines({ destination, length, source, order }: OwnColumns, a: number, b: number): number {
  for (let w = 1; w < 4; w++) {
    if (destination[a * 4 + w] !== destination[b * 4 + w])
      return destination[a * 4 + w] - destination[b * 4 + w];
  }
  return length[a] - length[b] || source[a] - source[b] || order[a] - order[b] || a - b;
}

function sameDestination({ table, family, destination, length }: OwnColumns, a: number, b: number): boolean {
  if (table[a] !== table[b] || family[a] !== family[b] || length[a] !== length[b]) return false;
  for (let w = 0; w < 4; w++) if (destination[a * 4 + w] !== destination[b * 4 + w]) return false;
  return true;
}

/** For each next hop that must be resolved, the destinations that hold it, longest first; `vrfOf` is -1 for any other. */
function coversOf(
  { via, family }: OwnColumns,
  vrfOf: (i: number) => number,
  matching: Matching,
): { coverStart: Int32Array; cover: Int32Array } {
  const found = new Map<Key, readonly number[]>();
  const coverStart = new Int32Array(family.length + 1);
  const cover: number[] = [];
  /** The destinations that hold the next hop of line `i`: each is looked up once. */
  const covering = (i: number, vrf: number): readonly number[] => {
    const hop = addressAt(via, family[i] as Family, i);
    const key = keyOf(vrf, hop, widthOf(hop.family));
    const covers = found.get(key) ?? holdingIn(matching, vrf, hop);
    found.set(key, covers);
    return covers;
  };
  for (let i = 0; i < family.length; i++) {
    const vrf = vrfOf(i);
    if (vrf >= 0) for (const group of covering(i, vrf)) cover.push(group);
    coverStart[i + 1] = cover.length;
  }
  return { coverStart, cover: new Int32Array(cover) };
}

/** A protocol's number in the order in which they are met; -1 for none. */
export function numbered(protocols: Map<string, number>, protocol: string | null): number {
  if (!protocol) return -1;
  const known = protocols.get(protocol) ?? protocols.size;
  protocols.set(protocol, known);
  return known;
}
