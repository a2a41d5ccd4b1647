import { type Address, sameAddress } from "../address/index.ts";
import { onceFor } from "../collections/index.ts";
import type { Suspects } from "../reachability/index.ts";
import type { Scenario } from "../scenario/index.ts";
import {
  carriersOfTrip,
  flatTrips,
  type Outcome,
  type Question,
  type Trip,
  type Verdict,
} from "../walk/index.ts";
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
  /** null for a flow that only the plan after has. */
  before: FlowStanding | null;
  /** null for a flow that only the plan before has. */
  after: FlowStanding | null;
}

/** The flows that only one of two plans has. */
export function flowsOfOneSide(before: Scenario, after: Scenario): FlowChange[] {
  const side = (scenario: Scenario, other: Scenario) => {
    const known = new Set(other.network.plan.flows.map(({ id }) => id));
    return scenario.flows().flatMap(({ flow, question }) =>
      known.has(flow.id)
        ? []
        : [
            {
              id: flow.id,
              label: flow.label ?? flow.id,
              standing: flowStanding(scenario, scenario.trip(flow.id, question)),
            },
          ],
    );
  };
  return [
    ...side(after, before).map(({ standing, ...flow }) => ({ ...flow, before: null, after: standing })),
    ...side(before, after).map(({ standing, ...flow }) => ({ ...flow, before: standing, after: null })),
  ];
}

/** The flows of both plans whose result differs. `suspects` lists what may be treated differently, or is null if
 * unknown; flows for which no changed device is asked about a suspect keep their result. */
export function flowChanges(before: Scenario, after: Scenario, suspects: Suspects | null): FlowChange[] {
  const { network } = after;
  const [askedBefore, asked] = [before, after].map(
    (scenario) => new Map(scenario.flows().map(({ flow, question }) => [flow.id, question])),
  );
  const changes: FlowChange[] = [];
  for (const flow of network.plan.flows) {
    const old = askedBefore.get(flow.id);
    const question = asked.get(flow.id);
    if (!old || !question) continue;
    if (sameEnds(old, question)) {
      const told = traceOf(before, flow.id, old);
      if (suspects?.altered && !mayDiffer(told, suspects, suspects.altered)) continue;
      if (isUnchanged(before, after, told, question)) continue;
    }
    const [a, b] = [
      flowStanding(before, before.trip(flow.id, old)),
      flowStanding(after, after.trace(question)),
    ];
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

/** What became of a flow: the ways that it took, the devices on them, and the addresses that its packets bore, null for any. */
interface FlowTrace {
  readonly outcome: Outcome;
  readonly ways: Int32Array;
  readonly devices: ReadonlySet<number>;
  readonly bore: ReadonlySet<Address> | null;
}

/** What became of the flows of a scenario, by their ids. */
const tracesOf = onceFor((_: Scenario) => new Map<string, FlowTrace>());

function traceOf(scenario: Scenario, id: string, question: Question): FlowTrace {
  const known = tracesOf(scenario).get(id);
  if (known) return known;
  const trips = flatTrips(scenario.network);
  const outcome = trips.outcome(scenario.world, question, scenario.gateways);
  const told = { outcome, ways: trips.ways(), devices: trips.devicesPassed(), bore: trips.addressesBorne() };
  tracesOf(scenario).set(id, told);
  return told;
}

/** Whether a flow passes a device that could treat it otherwise. */
function mayDiffer({ devices, bore }: FlowTrace, suspects: Suspects, altered: readonly number[]): boolean {
  if (!bore) return altered.some((device) => devices.has(device));
  for (const address of bore)
    if (suspects.differingAt(address).some((device) => devices.has(device))) return true;
  return false;
}

/** Whether a flow surely works by the same ways and gateways in both: where interfaces are numbered alike, and it works. */
function isUnchanged(before: Scenario, after: Scenario, was: FlowTrace, question: Question): boolean {
  const [old, now] = [before.network, after.network];
  if (old.interfaces !== now.interfaces || old === now || was.outcome.verdict !== "works") return false;
  const { verdict, carriers } = flatTrips(now).outcome(after.world, question, after.gateways);
  if (verdict !== "works" || !flatTrips(now).tookWays(was.ways)) return false;
  const names = ({ gateways }: Scenario, list: readonly number[]) => list.map((g) => gateways[g].id).join();
  return names(before, was.outcome.carriers) === names(after, carriers);
}

export function flowStanding({ engine, gateways }: Scenario, trip: Trip): FlowStanding {
  const { outbound, reply } = trip.worst;
  const { state } = engine.healthy.world;
  const because = outbound.drop
    ? dropText(state, outbound, outbound.drop)
    : reply?.drop
      ? `the reply is lost: ${dropText(state, reply, reply.drop)}`
      : "";
  return {
    verdict: trip.verdict,
    carriers: carriersOfTrip(gateways, trip).map((g) => gateways[g].id),
    because,
  };
}
