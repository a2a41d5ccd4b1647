import { chain } from "../../bench/fleets/chain.ts";
import { hubSpoke } from "../../bench/fleets/hub-spoke.ts";
import { leafSpine } from "../../bench/fleets/leaf-spine.ts";
import { mesh } from "../../bench/fleets/mesh.ts";
import { policyFleet } from "../../bench/fleets/policy.ts";
import type { Plan } from "../../core/plan/index.ts";
import { demoPlan } from "../support/plans.ts";
import { Random } from "../support/random.ts";
import { withOddities, withWatches } from "../support/random-extras.ts";
import { randomPlan } from "../support/random-plan.ts";

export interface AnsweredPlan {
  readonly name: string;
  readonly plan: Plan;
  /** How many failures at once the sweep looks at. */
  readonly depth: 1 | 2;
}

/** The plans whose answers are kept: the demos, generated fleets and random plans with all that a plan can say. */
export function answeredPlans(): AnsweredPlan[] {
  const demos = ["marrow-bay", "three-routers"].map((name) => ({
    name,
    plan: demoPlan(name),
    depth: 2 as const,
  }));
  const fleets = [
    { plan: mesh(5), depth: 2 as const },
    { plan: mesh(9), depth: 1 as const },
    { plan: hubSpoke(4), depth: 2 as const },
    { plan: hubSpoke(11), depth: 1 as const },
    { plan: leafSpine(5, 3), depth: 2 as const },
    { plan: leafSpine(4, 3, 6, 6), depth: 1 as const },
    { plan: chain(9, 6), depth: 1 as const },
    { plan: chain(6, 5, 6), depth: 2 as const },
    { plan: policyFleet(6), depth: 2 as const },
  ].map(({ plan, depth }) => ({ name: plan.name, plan, depth }));
  const random = Array.from({ length: 42 }, (_, n): AnsweredPlan => {
    const seed = 4711 + n * 97;
    const source = new Random(seed);
    const base = randomPlan(seed, { mistakes: n % 3 === 0, family: n % 5 ? 4 : 6 });
    const plan = n % 2 ? withOddities(base, source) : withWatches(base, source);
    return { name: `random ${seed}`, plan, depth: n % 4 === 0 ? 2 : 1 };
  });
  return [...demos, ...fleets, ...random];
}
