import type { Family } from "../address/index.ts";
import { blindToSource, HOP_LIMIT, type Stretch, Stretches, type World } from "../walk/index.ts";
import { type Fate, outcomeOf, type RangeOutcome, type Side } from "./outcomes.ts";
import type { AddressRange } from "./ranges.ts";
import type { Suspects } from "./suspects.ts";

/** The outcomes of a range in two worlds from many senders. Packets that reach an affected device unmodified share the
 * outcome of that device's own packets from there on, so the device is asked once. */
export class SharedEnds {
  private readonly differing: ReadonlySet<number>;
  private readonly fates = new Map<number, Ends | null>();
  private stretches: Stretches | null = null;

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

  /** The outcomes for a device's packets before and after, null if equal; undefined if they must be walked. */
  from(device: number): Fate | null | undefined {
    if (this.differing.size === 0 || this.differing.has(device)) return undefined;
    this.stretches ??= new Stretches(this.before.world, this.range.first, this.differing);
    const { stretches } = this;
    const there = stretches.from(device);
    const ends = there && this.endsAt(there.end);
    if (!there || !ends || there.hops + ends.longest > HOP_LIMIT) return undefined;
    if (ends.alike) return null;
    let stretch: Stretch | null = null;
    const way = () => {
      stretch ??= stretches.of(device);
      return stretch;
    };
    return {
      before: new Continued(this.before, stretches, way, ends.before),
      after: new Continued(this.after, stretches, way, ends.after),
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
}

/** The outcome of a packet that shares its final stretch with others; its path is computed on demand. */
class Continued implements RangeOutcome {
  readonly result: RangeOutcome["result"];
  readonly at: number;
  readonly code: RangeOutcome["code"];
  readonly single: boolean;

  constructor(
    private readonly side: Side,
    private readonly stretches: Stretches,
    private readonly stretch: () => Stretch,
    private readonly end: RangeOutcome,
  ) {
    this.result = end.result;
    this.at = end.at;
    this.code = end.code;
    this.single = end.single;
  }

  get carriers(): readonly number[] {
    const { world, gateways } = this.side;
    const carriers = this.stretches.carriersOn(world, gateways, this.stretch());
    return [...carriers, ...this.end.carriers.filter((gateway) => !carriers.includes(gateway))];
  }

  get way(): readonly number[] {
    return this.stretch().devices.concat(this.end.way);
  }

  get exits(): readonly number[] {
    return this.stretch().exits.concat(this.end.exits);
  }
}

interface Ends extends Fate {
  readonly alike: boolean;
  readonly longest: number;
}

/** Whether a packet that reaches a device has the outcome of the device's own: nothing depends on its source or its
 * earlier path. */
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
