import { type Address, compareAddress, lastOf, type Prefix, samePrefix } from "../address/index.ts";
import { type FlowQuestion, flatTrips, type Outcome } from "../forwarding/index.ts";
import { attachmentsOf } from "../network/index.ts";
import { sameValue } from "../plan/index.ts";
import { differenceOf, outcomeOf, type RangeOutcome, rangesOf, type Side } from "../reachability/index.ts";
import type { Scenario } from "../scenario/index.ts";

/** What a state in the middle of a change breaks though it works before and after. */
export interface Harm {
  /** Flows that do not work, or are carried by a gateway that carries them neither before nor after; by their ids. */
  readonly flows: readonly string[];
  /** Subnets that a device reaches before and after and not now, or to which its packets go in circles. */
  readonly subnets: readonly { readonly subnet: Prefix; readonly from: string }[];
}

export const NO_HARM: Harm = { flows: [], subnets: [] };

export function isSafe({ flows, subnets }: Harm): boolean {
  return flows.length === 0 && subnets.length === 0;
}

interface Watched {
  readonly id: string;
  readonly carriers: ReadonlySet<string>;
}

/** Holds states in the middle of a change against the plan before it and the plan after it. */
export class Judge {
  private readonly watched: readonly Watched[];
  private readonly subnets: readonly Prefix[];
  private readonly startsAfter: ReadonlyMap<4 | 6, readonly Address[]>;

  constructor(
    private readonly before: Scenario,
    private readonly after: Scenario,
  ) {
    const now = new Map(after.flows().map((asked) => [asked.flow.id, asked]));
    this.watched = before.flows().flatMap((asked): Watched[] => {
      const other = now.get(asked.flow.id);
      if (!other || !sameEnds(asked, other)) return [];
      const outcomes = [fares(before, asked), fares(after, other)];
      if (outcomes.some(({ verdict }) => verdict !== "works")) return [];
      return [{ id: asked.flow.id, carriers: new Set(outcomes.flatMap(({ carriers }) => carriers)) }];
    });
    this.subnets = distinct(
      [...attachmentsOf(before.network), ...attachmentsOf(after.network)].map(({ prefix }) => prefix),
    );
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

  /** What a state breaks. */
  harmOf(state: Scenario): Harm {
    return { flows: this.flowsBroken(state), subnets: this.subnetsBroken(state) };
  }

  private flowsBroken(state: Scenario): string[] {
    const asked = new Map(state.flows().map((one) => [one.flow.id, one]));
    return this.watched.flatMap(({ id, carriers }) => {
      const flow = asked.get(id);
      const now = flow && fares(state, flow);
      const fine = now?.verdict === "works" && now.carriers.every((carrier) => carriers.has(carrier));
      return fine ? [] : [id];
    });
  }

  private subnetsBroken(state: Scenario): Harm["subnets"] {
    const [before, after] = [sideOf(this.before), sideOf(this.after)];
    const found = new Map<string, { subnet: Prefix; from: string }>();
    for (const change of differenceOf(before, sideOf(state))) {
      const { result } = change.after;
      const loops = result === "looped";
      if (result === "delivered" || !fine(change.before.result, loops)) continue;
      const device = after.world.state.network.deviceIndex.get(change.from);
      if (device === undefined) continue;
      for (const [n, subnet] of this.subnets.entries()) {
        const key = `${n} ${change.from}`;
        if (found.has(key)) continue;
        const broken = this.placesWithin(subnet, change.range).some((first) =>
          fine(outcomeOf(after.world, after.gateways, device, { first, last: first }).result, loops),
        );
        if (broken) found.set(key, { subnet, from: change.from });
      }
    }
    return [...found.values()];
  }

  /** Where in a subnet and a range the plan after begins to treat addresses otherwise; none where the two do not meet. */
  private placesWithin(subnet: Prefix, { first, last }: { first: Address; last: Address }): Address[] {
    if (subnet.address.family !== first.family) return [];
    const from = compareAddress(subnet.address, first) > 0 ? subnet.address : first;
    const end = lastOf(subnet);
    const to = compareAddress(end, last) < 0 ? end : last;
    if (compareAddress(from, to) > 0) return [];
    const starts = this.startsAfter.get(first.family) ?? [];
    return [from, ...starts.filter((at) => compareAddress(at, from) > 0 && compareAddress(at, to) <= 0)];
  }
}

/** Whether what becomes of a packet is better than falling, or than going in circles. */
function fine(result: RangeOutcome["result"], thanLooping: boolean): boolean {
  return thanLooping ? result !== "looped" : result === "delivered";
}

function sideOf({ world, gateways }: Scenario): Side {
  return { world, gateways };
}

/** How a flow fares, its carriers by their ids; where watches flap, as in the state that comes first. */
function fares(
  scenario: Scenario,
  { question }: FlowQuestion,
): Omit<Outcome, "carriers"> & { carriers: string[] } {
  const outcome = flatTrips(scenario.network).outcome(scenario.world, question, scenario.gateways);
  return { ...outcome, carriers: outcome.carriers.map((g) => scenario.gateways[g].id) };
}

/** Whether a flow asks the same in two plans; what is expected of it does not matter. */
function sameEnds({ flow: a }: FlowQuestion, { flow: b }: FlowQuestion): boolean {
  const asked = ({ from, to, source, protocol, port }: typeof a) => ({ from, to, source, protocol, port });
  return sameValue(asked(a), asked(b));
}

function distinct(prefixes: readonly Prefix[]): Prefix[] {
  return prefixes.filter((prefix, n) => prefixes.findIndex((other) => samePrefix(other, prefix)) === n);
}
