import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { engineOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { withOddities, withWatches } from "../../tests/support/random-extras.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import type { Network, State } from "../network/index.ts";
import { readPlan } from "../plan/index.ts";
import { TableStore } from "./store.ts";
import { buildTables } from "./tables.ts";

/** Routes that find their next hops through other routes, and through each other. */
function withChains(plan: ReturnType<typeof randomPlan>, random: Random) {
  const document = structuredClone(plan);
  for (const device of document.devices) {
    if (device.role !== "router" || device.routes.length === 0) continue;
    for (let n = 0; n < 4; n++) {
      const to = `10.200.${random.below(3)}.${random.below(2) * 128}/${25 + random.below(2) * 7}`;
      const inside = `10.200.${random.below(3)}.${random.below(2) * 128}`;
      const via = random.chance(0.5) ? inside : (random.pick(device.routes).via ?? inside);
      if (to.startsWith(`${via}/`)) continue;
      const resolve = random.pick(["any", "connected"] as const);
      device.routes.push({ to, via, resolve, metric: random.below(3) });
    }
  }
  const reading = readPlan(document);
  return reading.ok ? reading.plan : plan;
}

function shaken(network: Network, state: State, random: Random) {
  const flip = (bytes: Uint8Array, chance: number) =>
    bytes.map((byte) => (random.chance(chance) ? 1 - byte : byte));
  return {
    interfaceUp: flip(state.interfaceUp, 2 / (network.interfaces.count + 1)),
    watchUp: flip(state.watchUp, 0.1),
    answers: flip(state.answers, 0.1),
    changedUse: null,
  };
}

describe("rule 13: tables derived from those of another state", () => {
  it("are those that are built from nothing, whatever differs", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const random = new Random(seed);
        const base = randomPlan(seed, { mistakes: true, family: seed % 4 ? 4 : 6 });
        const plan = [withWatches, withOddities, withChains][seed % 3](base, random);
        const { network, healthy } = engineOf(plan);
        const { state } = healthy.world;
        const store = new TableStore(network);
        for (const { index } of network.devices) store.of(state, index);
        for (let n = 0; n < 6; n++) {
          const now = shaken(network, state, random);
          for (const device of network.devices) {
            const { answered: _a, sends: _c, ...derived } = store.of(now, device.index);
            const { answered: _b, sends: _d, ...built } = buildTables(network, device, now);
            expect(derived).toEqual(built);
          }
        }
      }),
      { numRuns: 60 },
    );
  });
});
