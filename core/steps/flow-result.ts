import type { Scenario } from "../scenario/index.ts";
import {
  type Arrival,
  flatTrips,
  type Question,
  type Verdict,
  type Walk,
  walkBothWays,
} from "../walk/index.ts";

/** A flow's result in a scenario. */
export interface FlowResult {
  readonly verdict: Verdict;
  /** Gateway ids, in the order in which the packet leaves by them. */
  readonly carriers: readonly string[];
  /** Of a flow that must be denied. */
  readonly arrival?: Arrival;
}

export function flowResult({ network, world, gateways }: Scenario, question: Question): FlowResult {
  const { verdict, carriers, arrival } = flatTrips(network).outcome(world, question, gateways);
  return { verdict, carriers: carriers.map((g) => gateways[g].id), ...(arrival ? { arrival } : {}) };
}

/** The paths of a flow and its replies, as a text: two states that give the same carry it alike. */
export function pathText({ network, world }: Scenario, question: Question): string {
  const { devices, interfaces } = network;
  const text = (walk: Walk | null) =>
    walk?.hops
      .map(({ device, out }) => `${devices[device].id} ${out < 0 ? "" : interfaces.names[out]}`)
      .join();
  return walkBothWays(world, question)
    .branches.map(({ outbound, reply }) => `${text(outbound)} ${text(reply)}`)
    .join("|");
}
