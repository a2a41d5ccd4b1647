import { flatTrips, type Question, type Verdict } from "../forwarding/index.ts";
import type { Scenario } from "../scenario/index.ts";

/** How a flow fares in a scenario. */
export interface Faring {
  readonly verdict: Verdict;
  /** Gateway ids, in the order in which the packet leaves by them. */
  readonly carriers: readonly string[];
}

export function fares({ network, world, gateways }: Scenario, question: Question): Faring {
  const { verdict, carriers } = flatTrips(network).outcome(world, question, gateways);
  return { verdict, carriers: carriers.map((g) => gateways[g].id) };
}
