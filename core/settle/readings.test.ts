import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { hubSpoke } from "../../bench/fleets/hub-spoke.ts";
import { mesh } from "../../bench/fleets/mesh.ts";
import { anyElement, demoPlan, engineOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { withOddities, withWatches } from "../../tests/support/random-extras.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { withShared } from "../../tests/support/random-shared.ts";
import { physicalState, stateOf } from "../network/index.ts";
import type { Plan } from "../plan/index.ts";
import { World } from "../walk/index.ts";
import { readTunnels, readWatches, tunnelsNear, watchesNear } from "./index.ts";

/** Worlds with elements failed and beliefs turned at random, as they stand in the middle of an outage. */
function expectAlike(plan: Plan, random: Random, times: number) {
  const { network, store, healthy } = engineOf(plan);
  const near = healthy.world;
  const turned = (bytes: Uint8Array, other: (value: number) => number) =>
    bytes.map((value) => (random.chance(0.06) ? other(value) : value));
  const flip = (value: number) => 1 - value;
  for (let n = 0; n < times; n++) {
    const failed = Array.from({ length: random.below(3) }, () => anyElement(network, random));
    const sorted = [...new Set(failed)].sort((a, b) => a - b);
    const passes = turned(near.state.tunnelPasses, () => random.below(4));
    const physical = physicalState(network, sorted, passes, near.state.roles);
    const now = new World(
      stateOf(physical, {
        carrierUp: turned(physical.carrier, flip),
        watchUp: turned(near.state.watchUp, flip),
        answers: turned(near.state.answers, flip),
      }),
      store,
    );
    expect([...watchesNear(near, now)]).toEqual([...readWatches(now)]);
    const [one, other] = [new Set<number>(), new Set<number>()];
    expect([...tunnelsNear(near, now, one)]).toEqual([...readTunnels(now, other)]);
    expect(one).toEqual(other);
  }
}

describe("what is read near a known world", () => {
  it("is what is read from nothing, on random plans in the middle of anything", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const random = new Random(seed);
        const base = randomPlan(seed, { mistakes: seed % 3 === 0, family: seed % 4 ? 4 : 6 });
        const plan = seed % 3 ? withWatches(base, random) : base;
        const enriched = [(same: Plan) => same, withOddities, withShared][seed % 4 ? 1 + (seed % 2) : 0];
        expectAlike(enriched(plan, random), random, 12);
      }),
      { numRuns: 60 },
    );
  });

  it.each([demoPlan("marrow-bay"), mesh(6), hubSpoke(5)].map((plan) => [plan.name, plan] as const))(
    "is the same on %s",
    (_, plan) => expectAlike(plan, new Random(3), 150),
  );
});
