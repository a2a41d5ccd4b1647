import { type Address, compareAddress, nextAddress, sameAddress } from "../address/index.ts";
import { flatTrips, type GatewayRecord, type World } from "../forwarding/index.ts";
import { entryPoints, families, isOfInterest, outcomeOf, probeOf, type RangeOutcome } from "./outcomes.ts";
import type { AddressRange } from "./ranges.ts";
import { Remembered } from "./remembered.ts";
import { type Suspects, suspectsOf } from "./suspects.ts";

export interface RangeChange {
  readonly range: AddressRange;
  /** The device, by its id: its number may differ between the two. */
  readonly from: string;
  readonly before: RangeOutcome;
  readonly after: RangeOutcome;
}

export interface Side {
  readonly world: World;
  readonly gateways: readonly GatewayRecord[];
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

/** The same with at most so many pairs of range and sender walked, of those that could differ. */
export function differenceWithin(
  before: Side,
  after: Side,
  budget: number,
  suspects: Suspects = suspectsOf(before.world, after.world),
): Difference {
  const [old, now] = [before.world.state.network, after.world.state.network];
  const entries = entryPoints(before.world);
  const changes: RangeChange[] = [];
  let left = budget;
  for (const family of families) {
    /** The change that is open for each sender, to be joined by the next range. */
    const open = new Map<number, RangeChange>();
    for (const range of suspects.ranges(family)) {
      if (!isOfInterest(range)) continue;
      for (const device of suspects.senders(range, entries)) {
        const { id } = old.devices[device];
        const other = now.deviceIndex.get(id);
        if (other === undefined) continue;
        if (left-- <= 0) return { changes: sorted([...changes, ...open.values()]), complete: false };
        if (!open.has(device) && passesAlike(before.world, after.world, device, range)) continue;
        const a = outcomes.of(before.world, range.first, device, () =>
          outcomeOf(before.world, before.gateways, device, range),
        );
        const b = outcomeOf(after.world, after.gateways, other, range);
        const last = open.get(device);
        const follows =
          last && adjoins(last.range.last, range.first) && alike(last.before, a) && alike(last.after, b);
        const same = sameOutcome(before, a, after, b);
        if (last && (same || !follows)) {
          changes.push(last);
          open.delete(device);
        }
        if (same) continue;
        const first = follows && last ? last.range.first : range.first;
        open.set(device, { range: { first, last: range.last }, from: id, before: a, after: b });
      }
    }
    changes.push(...open.values());
  }
  return { changes: sorted(changes), complete: true };
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
