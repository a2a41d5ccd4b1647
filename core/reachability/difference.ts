import { type Address, compareAddress, nextAddress, sameAddress } from "../address/index.ts";
import { flatTrips, type World } from "../walk/index.ts";
import {
  entryPoints,
  type Fate,
  families,
  isOfInterest,
  outcomeOf,
  probeOf,
  type RangeOutcome,
  type Side,
} from "./outcomes.ts";
import type { AddressRange } from "./ranges.ts";
import { Remembered } from "./remembered.ts";
import { SharedEnds } from "./shared-ends.ts";
import { type Suspects, suspectsOf } from "./suspects.ts";

export interface RangeChange extends Fate {
  readonly range: AddressRange;
  /** The device, by its id: its number may differ between the two. */
  readonly from: string;
}

export interface Difference {
  readonly changes: RangeChange[];
  /** Whether all of the space was looked at; with a budget of walks it need not be. */
  readonly complete: boolean;
}

/**
 * Every range of addresses that is treated otherwise after than before, from each device that both have
 * (rule 11): exact, because the prefixes of both cut the ranges. Neighbouring ranges that change alike are one.
 */
export function differenceOf(before: Side, after: Side): RangeChange[] {
  return differenceWithin(before, after, Number.POSITIVE_INFINITY).changes;
}

const outcomes = new Remembered<RangeOutcome>();

/** Like `difference`, but walks at most `most` (range, sender) pairs among those that could differ. */
export function differenceWithin(
  before: Side,
  after: Side,
  budget: number,
  suspects: Suspects = suspectsOf(before.world, after.world),
): Difference {
  const now = after.world.state.network;
  const entries = entryPoints(before.world);
  const changes: RangeChange[] = [];
  let left = budget;
  for (const family of families) {
    /** The change that is open for each sender, to be joined by the next range. */
    const open = new Map<number, RangeChange>();
    for (const range of suspects.ranges(family)) {
      if (!isOfInterest(range)) continue;
      const shared = new SharedEnds(
        before,
        after,
        range,
        suspects,
        (device) => rememberedOutcome(before, device, range),
        (a, b) => sameOutcome(before, a, after, b),
      );
      for (const device of suspects.senders(range, entries)) {
        const id = before.world.state.network.devices[device].id;
        if (!now.deviceIndex.has(id)) continue;
        if (left-- <= 0) return { changes: sorted([...changes, ...open.values()]), complete: false };
        const last = open.get(device);
        const known = shared.from(device);
        const fate = known === undefined ? fateOf(before, after, device, range, last !== undefined) : known;
        const follows =
          last &&
          fate &&
          adjoins(last.range.last, range.first) &&
          alike(last.before, fate.before) &&
          alike(last.after, fate.after);
        if (last && !follows) {
          changes.push(last);
          open.delete(device);
        }
        if (!fate) continue;
        const first = follows ? last.range.first : range.first;
        open.set(device, { range: { first, last: range.last }, from: id, ...fate });
      }
    }
    changes.push(...open.values());
  }
  return { changes: sorted(changes), complete: true };
}

/** The outcomes of packets from a device to a range, if they differ; otherwise null. */
function fateOf(
  before: Side,
  after: Side,
  device: number,
  range: AddressRange,
  isOpen: boolean,
): Fate | null {
  const [old, now] = [before.world.state.network, after.world.state.network];
  if (!isOpen && passesAlike(before.world, after.world, device, range)) return null;
  const other = now.deviceIndex.get(old.devices[device].id) as number;
  const a = rememberedOutcome(before, device, range);
  const b = outcomeOf(after.world, after.gateways, other, range);
  return sameOutcome(before, a, after, b) ? null : { before: a, after: b };
}

/** The side of a comparison that stays is walked once. */
function rememberedOutcome({ world, gateways }: Side, device: number, range: AddressRange): RangeOutcome {
  return outcomes.of(world, range.first, device, () => outcomeOf(world, gateways, device, range));
}

/** Whether a packet surely takes the very same ways in both, where interfaces are numbered alike. */
function passesAlike(before: World, after: World, device: number, range: AddressRange): boolean {
  const [old, now] = [before.state.network, after.state.network];
  // Of one network there is one list of ways: two worlds of it cannot be held against each other by it.
  if (old === now || old.interfaces !== now.interfaces) return false;
  const question = probeOf(device, range);
  const a = flatTrips(old).waysOut(before, question);
  const b = a && flatTrips(now).waysOut(after, question);
  if (!a || !b || a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a.list[i] !== b.list[i]) return false;
  return true;
}

function sorted(changes: RangeChange[]): RangeChange[] {
  return changes.sort((a, b) => compareAddress(a.range.first, b.range.first));
}

function adjoins(last: Address, first: Address): boolean {
  const next = nextAddress(last);
  return next !== null && sameAddress(next, first);
}

/** Whether two outcomes in one network say the same. */
function alike(a: RangeOutcome, b: RangeOutcome): boolean {
  return (
    a.result === b.result &&
    a.at === b.at &&
    a.code === b.code &&
    sameList(a.way, b.way) &&
    sameList(a.exits, b.exits) &&
    sameList(a.carriers, b.carriers)
  );
}

function sameList(a: readonly number[], b: readonly number[]): boolean {
  return a.length === b.length && a.every((value, i) => value === b[i]);
}

/** Whether two outcomes in two networks say the same, devices and interfaces compared by their names. */
function sameOutcome(before: Side, a: RangeOutcome, after: Side, b: RangeOutcome): boolean {
  if (a.result !== b.result || a.code !== b.code || a.way.length !== b.way.length) return false;
  const [old, now] = [before.world.state.network, after.world.state.network];
  return a.way.every(
    (device, i) =>
      old.devices[device].id === now.devices[b.way[i]].id &&
      old.interfaces.names[a.exits[i]] === now.interfaces.names[b.exits[i]],
  );
}
