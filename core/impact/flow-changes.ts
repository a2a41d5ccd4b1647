import { carriersOfTrip, type Trip, type Verdict } from "../forwarding/index.ts";
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
 * The flows of both plans that fare otherwise after than before. `rewritten` are the only devices that
 * anything changed on, or null where that is not known: flows that pass none of them fare as before.
 */
export function flowChanges(
  before: Scenario,
  after: Scenario,
  rewritten: readonly number[] | null,
): FlowChange[] {
  const old = before.trips();
  const { network } = after;
  const asked = new Map(after.flows().map(({ flow, question }) => [flow.id, question]));
  const changes: FlowChange[] = [];
  for (const flow of network.plan.flows) {
    const was = old.get(flow.id);
    if (!was || (rewritten && !passes(was, rewritten))) continue;
    const question = asked.get(flow.id);
    const now = question ? after.trace(question) : null;
    if (!now) continue;
    const [a, b] = [flowStanding(before, was), flowStanding(after, now)];
    if (a.verdict === b.verdict && a.carriers.join() === b.carriers.join() && a.because === b.because)
      continue;
    changes.push({ id: flow.id, label: flow.label ?? flow.id, before: a, after: b });
  }
  return changes;
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
