import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { anyElement, engineOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { withOddities, withWatches } from "../../tests/support/random-extras.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { withShared } from "../../tests/support/random-shared.ts";
import { BytePool, differing } from "../collections/index.ts";
import type { Plan } from "../plan/index.ts";
import { settle } from "../settle/index.ts";

/** Fails random elements in pooled states, and compares the reported changes with all actual changes. */
function expectAllTold(plan: Plan, random: Random, times: number) {
  const engine = engineOf(plan);
  const { network, store } = engine;
  const { state: before } = engine.healthy.world;
  const lent = new BytePool();
  for (let n = 0; n < times; n++) {
    const failed = Array.from({ length: 1 + random.below(3) }, () => anyElement(network, random));
    lent.takeBack();
    const { state, touched } = settle(engine, failed, lent.copy).world;
    const held = settle(engine, failed).world.state;
    for (const key of ["carrier", "interfaceUp", "linkAlive", "deviceAlive", "answers", "watchUp"] as const)
      expect(state[key]).toEqual(held[key]);
    const changed = differing(before.interfaceUp, state.interfaceUp);
    if (state.changedUse && before.changedUse) {
      const told = new Set([...before.changedUse, ...state.changedUse]);
      expect(changed.filter((i) => !told.has(i))).toEqual([]);
    }
    // The store compares with the state that it saw first, which need not be the healthy one.
    expect(touched).toEqual(store.touchedIn({ ...state, changedUse: null }));
  }
}

describe("what a state says to have changed", () => {
  it("is all that is used otherwise, whatever failed, bundles, tags, pairs and tunnels among it", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const random = new Random(seed);
        const base = randomPlan(seed, { mistakes: seed % 3 === 0, family: seed % 4 ? 4 : 6 });
        const extras = [withWatches, withOddities, withShared][seed % 3];
        expectAllTold(extras(base, random), random, 10);
      }),
      { numRuns: 80 },
    );
  });
});
