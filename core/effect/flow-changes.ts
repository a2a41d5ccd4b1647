import { askFrom, carriersOfTrip, type Trip, type Verdict, walkBothWays } from "../forwarding/index.ts";
import type { Engine } from "../outage/index.ts";
import type { Flow } from "../plan/index.ts";
import { dropText } from "../words/index.ts";
import type { Standing } from "./standing.ts";

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

const walked = new WeakMap<Engine, Map<string, Trip | null>>();

/** The trips of a plan's flows, null where one cannot be asked; worked out once an engine. */
export function tripsOf(engine: Engine): Map<string, Trip | null> {
  let trips = walked.get(engine);
  if (!trips) {
    trips = new Map(engine.network.plan.flows.map((flow) => [flow.id, tripOf(engine, flow)]));
    walked.set(engine, trips);
  }
  return trips;
}

function tripOf(engine: Engine, flow: Flow): Trip | null {
  const asked = askFrom(engine.network, flow);
  return asked.ok ? walkBothWays(engine.healthy.world, asked.question) : null;
}

/**
 * The flows of both plans that fare otherwise after than before. `rewritten` are the only devices that
 * anything changed on, or null where that is not known: flows that pass none of them fare as before.
 */
export function flowChanges(
  before: Standing,
  after: Standing,
  rewritten: readonly number[] | null,
): FlowChange[] {
  const old = tripsOf(before.engine);
  const { network } = after.engine;
  const changes: FlowChange[] = [];
  for (const flow of network.plan.flows) {
    const was = old.get(flow.id);
    if (!was || (rewritten && !passes(was, rewritten))) continue;
    const now = tripOf(after.engine, flow);
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

export function flowStanding({ engine, gateways }: Standing, trip: Trip): FlowStanding {
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
