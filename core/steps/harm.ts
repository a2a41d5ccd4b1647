import {
  type Address,
  compareAddress,
  formatPrefix,
  hostPrefix,
  lastOf,
  type Prefix,
  PrefixList,
} from "../address/index.ts";
import { attachmentsOf } from "../network/index.ts";
import { sameValue } from "../plan/index.ts";
import {
  type AddressRange,
  differenceOf,
  outcomeOf,
  prefixesOfRange,
  type RangeOutcome,
  rangesOf,
} from "../reachability/index.ts";
import type { Scenario } from "../scenario/index.ts";
import { doesAsExpected, type FlowQuestion } from "../walk/index.ts";
import { flowResult, pathText } from "./flow-result.ts";

/** What a state in the middle of a change breaks though it works before and after. */
export interface Harm {
  /** Flows that do not work, or are carried by a gateway that carries them neither before nor after; by their ids. */
  readonly flows: readonly string[];
  /** Subnets that a device reaches before and after and not now, or to which its packets go in circles. */
  readonly subnets: readonly { readonly subnet: Prefix; readonly from: string }[];
  /** Unused address ranges for which a device's packets loop, but not before or after the change. */
  readonly loops: readonly { readonly range: Prefix; readonly from: string }[];
}

const NO_HARM: Harm = { flows: [], subnets: [], loops: [] };

/** Whether no flow and no subnet breaks. */
export function isSafe({ flows, subnets }: Pick<Harm, "flows" | "subnets">): boolean {
  return flows.length === 0 && subnets.length === 0;
}

/** Up to this many flows, paths are compared; beyond it, only the gateways that carry them. */
const MAX_TRACED = 200;

interface Watched {
  readonly id: string;
  readonly carriers: ReadonlySet<string>;
}

/** Holds states in the middle of a change against the plan before it and the plan after it. */
export class Judge {
  private readonly watched: readonly Watched[];
  private readonly subnets: PrefixList<Prefix>;
  private readonly startsAfter: ReadonlyMap<4 | 6, readonly Address[]>;

  constructor(
    private readonly before: Scenario,
    private readonly after: Scenario,
  ) {
    const now = new Map(after.flows().map((asked) => [asked.flow.id, asked]));
    this.watched = before.flows().flatMap((asked): Watched[] => {
      const other = now.get(asked.flow.id);
      if (!other || !sameEnds(asked, other)) return [];
      const outcomes = [flowResult(before, asked.question), flowResult(after, other.question)];
      // Whether a flow must be denied follows the plan after: a change may close a path that was open.
      if (asked.question.mustBeDenied !== other.question.mustBeDenied) return [];
      if (!outcomes.every((outcome) => doesAsExpected(other.question, outcome))) return [];
      return [{ id: asked.flow.id, carriers: new Set(outcomes.flatMap(({ carriers }) => carriers)) }];
    });
    const attached = [before, after].flatMap(({ network }) => attachmentsOf(network));
    const distinct = new Map(attached.map(({ prefix }) => [formatPrefix(prefix), prefix]));
    this.subnets = new PrefixList([...distinct.values()], (prefix) => prefix);
    this.startsAfter = new Map(
      ([4, 6] as const).map((family) => [
        family,
        rangesOf([after.network], family).map(({ first }) => first),
      ]),
    );
  }

  /** The flows that must not break, by their ids. */
  get flows(): ReadonlySet<string> {
    return new Set(this.watched.map(({ id }) => id));
  }

  /** How many flows and subnets are compared with the plans before and after. */
  get counts(): { readonly flows: number; readonly subnets: number } {
    return { flows: this.watched.length, subnets: this.subnets.all.length };
  }

  /** The harm of a state and the path of each watched flow. The first and the last state (`isEnd`) harm nothing. */
  judge(state: Scenario, isEnd: boolean): { harm: Harm; paths: readonly string[] } {
    const asked = new Map(state.flows().map((one) => [one.flow.id, one]));
    const flows: string[] = [];
    const paths = this.watched.map(({ id, carriers }) => {
      const flow = asked.get(id);
      const now = flow && flowResult(state, flow.question);
      const isAcceptable =
        now &&
        doesAsExpected(flow.question, now) &&
        (flow.question.mustBeDenied || now.carriers.every((carrier) => carriers.has(carrier)));
      if (!isAcceptable) flows.push(id);
      if (!flow || !now) return "";
      return this.watched.length > MAX_TRACED ? now.carriers.join() : pathText(state, flow.question);
    });
    return { harm: isEnd ? NO_HARM : { flows, ...this.rangesBroken(state) }, paths };
  }

  private rangesBroken(state: Scenario): Pick<Harm, "subnets" | "loops"> {
    const { before, after } = this;
    const found = new Map<string, { subnet: Prefix; from: string }>();
    const circles = new Map<string, { range: Prefix; from: string }>();
    for (const change of differenceOf(before, state)) {
      const { result } = change.after;
      const loops = result === "looped";
      if (result === "delivered" || !fine(change.before.result, loops)) continue;
      const device = after.network.deviceIndex.get(change.from);
      if (device === undefined) continue;
      for (const subnet of this.subnetsIn(change.range)) {
        const key = `${formatPrefix(subnet)} ${change.from}`;
        if (found.has(key)) continue;
        const broken = this.placesWithin(subnet, change.range).some((first) =>
          fine(outcomeOf(after.world, after.gateways, device, { first, last: first }).result, loops),
        );
        if (broken) found.set(key, { subnet, from: change.from });
      }
      if (!loops) continue;
      for (const range of prefixesOfRange(change.range)) {
        const key = `${formatPrefix(range)} ${change.from}`;
        const circlesOnlyNow = this.placesWithin(range, change.range).some(
          (first) =>
            this.subnets.holding(hostPrefix(first)).length === 0 &&
            outcomeOf(after.world, after.gateways, device, { first, last: first }).result !== "looped",
        );
        if (circlesOnlyNow) circles.set(key, { range, from: change.from });
      }
    }
    return { subnets: [...found.values()], loops: [...circles.values()] };
  }

  /** The subnets that have addresses in a range. */
  private subnetsIn(range: AddressRange): Set<Prefix> {
    return new Set(
      prefixesOfRange(range).flatMap((prefix) => [
        ...this.subnets.holding(prefix),
        ...this.subnets.within(prefix),
      ]),
    );
  }

  /** Where in a subnet and a range the plan after begins to treat addresses otherwise. */
  private placesWithin(subnet: Prefix, { first, last }: AddressRange): Address[] {
    const end = lastOf(subnet);
    const from = compareAddress(subnet.address, first) > 0 ? subnet.address : first;
    const to = compareAddress(end, last) < 0 ? end : last;
    const starts = this.startsAfter.get(first.family) ?? [];
    const places = [from];
    for (let n = firstAfter(starts, from); n < starts.length && compareAddress(starts[n], to) <= 0; n++)
      places.push(starts[n]);
    return places;
  }
}

/** The first place in an ascending list whose address lies after another. */
function firstAfter(list: readonly Address[], address: Address): number {
  let [low, high] = [0, list.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (compareAddress(list[middle], address) <= 0) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Whether a packet's outcome is acceptable: better than lost, or at least better than looping. */
function fine(result: RangeOutcome["result"], thanLooping: boolean): boolean {
  return thanLooping ? result !== "looped" : result === "delivered";
}

/** Whether a flow has the same ends in two plans; its expectation does not matter. */
function sameEnds({ flow: a }: FlowQuestion, { flow: b }: FlowQuestion): boolean {
  const asked = ({ from, to, source, protocol, port }: typeof a) => ({ from, to, source, protocol, port });
  return sameValue(asked(a), asked(b));
}
