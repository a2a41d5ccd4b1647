import { sameAddress } from "../address/index.ts";
import {
  carriersOfTrip,
  flatTrips,
  type Outcome,
  type Question,
  type Trip,
  type Verdict,
} from "../forwarding/index.ts";
import { onceFor } from "../network/index.ts";
import type { Scenario } from "../scenario/index.ts";
import { dropText } from "../words/index.ts";

export interface FlowStanding {
  verdict: Verdict;
  /** Gateway ids, in the order in which the packet leaves by them. */
  carriers: string[];
  /** Why it does not work; "" where it does. */
  because: string;
}

export interface FlowChange {
  id: string;
  label: string;
  before: FlowStanding;
  after: FlowStanding;
}

/**
 * The flows of both plans that fare otherwise after than before. `altered` are the only devices that
 * could treat anything otherwise, or null where that is not known: flows that pass none of them fare as before.
 */
export function flowChanges(
  before: Scenario,
  after: Scenario,
  altered: readonly number[] | null,
): FlowChange[] {
  const walked = before.trips();
  const { network } = after;
  const [askedBefore, asked] = [before, after].map(
    (scenario) => new Map(scenario.flows().map(({ flow, question }) => [flow.id, question])),
  );
  const changes: FlowChange[] = [];
  for (const flow of network.plan.flows) {
    const was = walked.get(flow.id);
    const question = asked.get(flow.id);
    const old = askedBefore.get(flow.id);
    if (!was || (altered && old && question && sameEnds(old, question) && !passes(was, altered))) continue;
    if (!question || (old && faresAlike(before, after, flow.id, [old, question]))) continue;
    const [a, b] = [flowStanding(before, was), flowStanding(after, after.trace(question))];
    if (a.verdict === b.verdict && a.carriers.join() === b.carriers.join() && a.because === b.because)
      continue;
    changes.push({ id: flow.id, label: flow.label ?? flow.id, before: a, after: b });
  }
  return changes;
}

/** Whether two questions are of the same addresses: what a flow's ends are called may have got others. */
function sameEnds(a: Question, b: Question): boolean {
  return (
    sameAddress(a.destination, b.destination) &&
    (a.source && b.source ? sameAddress(a.source, b.source) : a.source === b.source)
  );
}

/** What became of the flows of a scenario and the ways that they took, by their ids. */
const toldBefore = onceFor(
  (_: Scenario) => new Map<string, { readonly outcome: Outcome; readonly ways: Int32Array }>(),
);

/** Whether a flow surely works by the same ways and gateways in both: where interfaces are numbered alike, and it works. */
function faresAlike(before: Scenario, after: Scenario, id: string, asked: readonly Question[]): boolean {
  const [old, now] = [before.network, after.network];
  if (old.interfaces !== now.interfaces || old === now) return false;
  const told = toldBefore(before);
  let was = told.get(id);
  if (!was) {
    const outcome = flatTrips(old).outcome(before.world, asked[0], before.gateways);
    was = { outcome, ways: flatTrips(old).ways() };
    told.set(id, was);
  }
  const { verdict, carriers } = flatTrips(now).outcome(after.world, asked[1], after.gateways);
  if (verdict !== "works" || was.outcome.verdict !== "works" || !flatTrips(now).tookWays(was.ways))
    return false;
  const names = ({ gateways }: Scenario, list: readonly number[]) => list.map((g) => gateways[g].id).join();
  return names(before, was.outcome.carriers) === names(after, carriers);
}

function passes(trip: Trip, devices: readonly number[]): boolean {
  return trip.branches.some(({ outbound, reply }) =>
    [...outbound.hops, ...(reply?.hops ?? [])].some((hop) => devices.includes(hop.device)),
  );
}

export function flowStanding({ engine, gateways }: Scenario, trip: Trip): FlowStanding {
  const { outbound, reply } = trip.worst;
  const { state } = engine.healthy.world;
  const because = outbound.drop
    ? dropText(state, outbound, outbound.drop)
    : reply?.drop
      ? `of the reply: ${dropText(state, reply, reply.drop)}`
      : "";
  return {
    verdict: trip.verdict,
    carriers: carriersOfTrip(gateways, trip).map((g) => gateways[g].id),
    because,
  };
}
