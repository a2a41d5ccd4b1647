import { Marks, NumberLists, onceFor } from "../collections/index.ts";
import { type DeviceLayout, type DeviceRecord, mostGroups, type Network } from "../network/index.ts";
import { AnswerCache, candidateStatesLike, type DeviceTables } from "./device-tables.ts";
import { circularIn } from "./next-hops.ts";
import { buildTables, type LocalState, settleGroups } from "./tables.ts";

/** Differences in a device's view between two states: its interfaces, watches and answer slots, numbered network-wide.
 * */
export interface LocalChange {
  readonly interfaces: readonly number[];
  readonly watches: readonly number[];
  readonly answers: readonly number[];
}

/**
 * The tables of a device in a state that differs in a few places from that of other tables: only the destinations that
 * rest on what differs are settled anew. The same as `buildTables`, in time of what changes.
 */
export function deriveTables(
  network: Network,
  like: DeviceTables,
  local: LocalState,
  change: LocalChange,
): DeviceTables {
  const touch = (take: (candidate: number) => void) => {
    const { firstCandidate, firstInterface, firstWatch } = like.device;
    const { interfaces, watches } = dependentsOf(network, like.device);
    for (const i of change.interfaces) interfaces.each(i - firstInterface, take);
    for (const w of change.watches) watches.each(w - firstWatch, take);
    for (const slot of change.answers) take(network.candidates.answering[slot] - firstCandidate);
  };
  return settleTouched(network, like, local, touch, none);
}

/** The tables of a device in the same state without some of its candidates (network-wide), likewise. */
export function tablesWithout(
  network: Network,
  like: DeviceTables,
  local: LocalState,
  absent: ReadonlySet<number>,
): DeviceTables {
  const touch = (take: (candidate: number) => void) => {
    for (const c of absent) take(c - like.device.firstCandidate);
  };
  return settleTouched(network, like, local, touch, absent);
}

const none: ReadonlySet<number> = new Set();

/** Settles the candidates that depend on the touched ones again; numbers count from the device's first candidate. */
function settleTouched(
  network: Network,
  like: DeviceTables,
  local: LocalState,
  touch: (take: (candidate: number) => void) => void,
  absent: ReadonlySet<number>,
): DeviceTables {
  const { device } = like;
  // A chain that meets itself is found by settling all, and may end by what changes elsewhere.
  if (like.circles.size) return buildTables(network, device, local, absent);
  const groups = touchedGroups(network, like, touch);
  if (groups.length * 2 > device.endGroup - device.firstGroup)
    return buildTables(network, device, local, absent);
  const tables: DeviceTables = {
    device,
    circles: like.circles,
    matching: like.matching,
    ...candidateStatesLike(like),
    answered: new AnswerCache(),
    sends: { kept: null },
  };
  settleGroups(network, local, tables, groups, absent);
  return circularIn(network, tables, groups).length ? buildTables(network, device, local, absent) : tables;
}

/** Groups (network-wide) whose candidates rest on what changes: themselves, or by the routes that their next hops need. */
function touchedGroups(
  network: Network,
  { device }: DeviceTables,
  touch: (take: (candidate: number) => void) => void,
): number[] {
  const { candidates } = network;
  const { groups } = dependentsOf(network, device);
  const touched = groupMarks(network).empty();
  const take = (candidate: number) => {
    touched.add(candidates.group[device.firstCandidate + candidate] - device.firstGroup);
  };
  touch(take);
  touched.each((g) => groups.each(g, take));
  const list = touched.toArray().sort((a, b) => a - b);
  for (let n = 0; n < list.length; n++) list[n] += device.firstGroup;
  return list;
}

/** Candidates by their dependencies, counted from the device's first. */
interface Dependents {
  readonly interfaces: NumberLists;
  readonly watches: NumberLists;
  readonly groups: NumberLists;
}

/** The groups that the change touches which was asked for last, counted from their device's first. */
const groupMarks = onceFor((network: Network) => new Marks(mostGroups(network)));

const known = new WeakMap<DeviceLayout, Dependents>();

/** What a device's candidates rest on; a layout is always that of a device with as many interfaces and watches. */
function dependentsOf({ layouts }: Network, device: DeviceRecord): Dependents {
  const layout = layouts[device.index];
  let resting = known.get(layout);
  if (!resting) {
    resting = settledResting(layout, device);
    known.set(layout, resting);
  }
  return resting;
}

function settledResting(layout: DeviceLayout, device: DeviceRecord): Dependents {
  const { columns, coverStart, cover } = layout;
  const interfaces = new NumberLists(device.endInterface - device.firstInterface, layout.count);
  const watches = new NumberLists(device.endWatch - device.firstWatch, 0);
  const groups = new NumberLists(layout.groupStart.length, cover.length);
  for (let c = 0; c < layout.count; c++) {
    if (columns.out[c] >= 0) interfaces.add(columns.out[c], c);
    if (columns.watch[c] >= 0) watches.add(columns.watch[c], c);
    for (let k = coverStart[c]; k < coverStart[c + 1]; k++) groups.add(cover[k], c);
  }
  return { interfaces, watches, groups };
}
