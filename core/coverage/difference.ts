import { type Address, compareAddress, nextAddress, sameAddress } from "../address/index.ts";
import type { GatewayRecord, World } from "../forwarding/index.ts";
import { entryPoints, families, isOfInterest, outcomeOf, type RangeOutcome } from "./outcomes.ts";
import { type AddressRange, rangesOf } from "./ranges.ts";
import { suspectsOf } from "./suspects.ts";

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

/**
 * Every range of addresses that is treated otherwise after than before, from each device that both have
 * (rule 11): exact, because the prefixes of both cut the ranges. Neighbouring ranges that change alike are one.
 */
export function differenceOf(before: Side, after: Side): RangeChange[] {
  const [old, now] = [before.world.state.network, after.world.state.network];
  const suspects = suspectsOf(before.world, after.world);
  const changes: RangeChange[] = [];
  for (const family of families) {
    const ranges = rangesOf([old, now], family).filter((range) => isOfInterest(range) && suspects(range));
    for (const device of entryPoints(before.world)) {
      const { id } = old.devices[device];
      const other = now.deviceIndex.get(id);
      if (other === undefined) continue;
      let open = null as Omit<RangeChange, "from"> | null;
      const close = () => {
        if (open) changes.push({ ...open, from: id });
        open = null;
      };
      for (const range of ranges) {
        const a = outcomeOf(before.world, before.gateways, device, range);
        const b = outcomeOf(after.world, after.gateways, other, range);
        const follows =
          open !== null &&
          adjoins(open.range.last, range.first) &&
          alike(open.before, a) &&
          alike(open.after, b);
        if (!follows) close();
        if (sameOutcome(before, a, after, b)) continue;
        open = { range: { first: open?.range.first ?? range.first, last: range.last }, before: a, after: b };
      }
      close();
    }
  }
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
    a.way.join() === b.way.join() &&
    a.exits.join() === b.exits.join() &&
    a.carriers.join() === b.carriers.join()
  );
}

/** Whether two outcomes in two networks say the same, devices and interfaces compared by their names. */
function sameOutcome(before: Side, a: RangeOutcome, after: Side, b: RangeOutcome): boolean {
  const way = ({ world }: Side, outcome: RangeOutcome) => {
    const { devices, interfaces } = world.state.network;
    return outcome.way.map((d, i) => `${devices[d].id}/${interfaces.names[outcome.exits[i]] ?? ""}`).join();
  };
  return a.result === b.result && a.code === b.code && way(before, a) === way(after, b);
}
