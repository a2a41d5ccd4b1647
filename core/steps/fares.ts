import { type Arrival, flatTrips, type Question, type Verdict } from "../forwarding/index.ts";
import type { Scenario } from "../scenario/index.ts";

/** How a flow fares in a scenario. */
export interface Faring {
  readonly verdict: Verdict;
  /** Gateway ids, in the order in which the packet leaves by them. */
  readonly carriers: readonly string[];
  /** Of a flow that must be denied. */
  readonly arrival?: Arrival;
}

export function fares({ network, world, gateways }: Scenario, question: Question): Faring {
  const { verdict, carriers, arrival } = flatTrips(network).outcome(world, question, gateways);
  return { verdict, carriers: carriers.map((g) => gateways[g].id), ...(arrival ? { arrival } : {}) };
}
