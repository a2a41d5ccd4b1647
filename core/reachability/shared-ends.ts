import type { Family } from "../address/index.ts";
import {
  blindToSource,
  carriersOnStretch,
  HOP_LIMIT,
  type Stretch,
  stretchTo,
  type World,
} from "../forwarding/index.ts";
import { type Fate, outcomeOf, type RangeOutcome, type Side } from "./outcomes.ts";
import type { AddressRange } from "./ranges.ts";
import type { Suspects } from "./suspects.ts";

/**
 * What becomes of a range in two worlds from many senders. Those whose packets come plainly to one of the devices that
 * treat it otherwise, fare as packets of that device's own from there on: it is asked once for all of them.
 */
export class SharedEnds {
  private readonly differing: ReadonlySet<number>;
  private readonly fates = new Map<number, Ends | null>();

  constructor(
    private readonly before: Side,
    private readonly after: Side,
    private readonly range: AddressRange,
    suspects: Suspects,
    private readonly remembered: (device: number) => RangeOutcome,
    private readonly isSame: (a: RangeOutcome, b: RangeOutcome) => boolean,
  ) {
    const sameNumbers = before.world.state.network.interfaces === after.world.state.network.interfaces;
    this.differing = new Set(suspects.altered && sameNumbers ? suspects.differingAt(range.first) : []);
  }

  /** From a device: how packets fare before and after, null where alike; undefined where they have to be walked. */
  from(device: number): Fate | null | undefined {
    if (this.differing.size === 0 || this.differing.has(device)) return undefined;
    const stretch = stretchTo(this.before.world, device, this.range.first, this.differing);
    const ends = stretch && this.endsAt(stretch.to);
    if (!stretch || !ends || stretch.devices.length + ends.longest > HOP_LIMIT) return undefined;
    if (ends.alike) return null;
    return {
      before: this.continued(this.before, stretch, ends.before),
      after: this.continued(this.after, stretch, ends.after),
    };
  }

  private endsAt(device: number): Ends | null {
    let ends = this.fates.get(device);
    if (ends === undefined) {
      const a = this.remembered(device);
      const b = outcomeOf(this.after.world, this.after.gateways, device, this.range);
      const { family } = this.range.first;
      const shared =
        isShared(this.before.world, device, a, family) && isShared(this.after.world, device, b, family);
      const longest = Math.max(a.way.length, b.way.length);
      ends = shared ? { before: a, after: b, alike: this.isSame(a, b), longest } : null;
      this.fates.set(device, ends);
    }
    return ends;
  }

  private continued({ world, gateways }: Side, stretch: Stretch, end: RangeOutcome): RangeOutcome {
    const carriers = carriersOnStretch(world, gateways, stretch, this.range.first);
    return {
      ...end,
      carriers: [...carriers, ...end.carriers.filter((gateway) => !carriers.includes(gateway))],
      way: stretch.devices.concat(end.way),
      exits: stretch.exits.concat(end.exits),
    };
  }
}

interface Ends extends Fate {
  readonly alike: boolean;
  readonly longest: number;
}

/** Whether any packet that comes to a device fares as one of its own does: nobody asks where it comes from or has been. */
function isShared({ state: { network } }: World, device: number, end: RangeOutcome, family: Family): boolean {
  const blind = blindToSource(network);
  const { role, outline, forwards } = network.devices[device];
  return (
    role !== "internet" &&
    !outline &&
    forwards[family] &&
    end.single &&
    end.result !== "looped" &&
    end.code !== "hop-limit" &&
    end.code !== "no-source" &&
    new Set(end.way).size === end.way.length &&
    end.way.every((one) => blind[one] === 1)
  );
}
