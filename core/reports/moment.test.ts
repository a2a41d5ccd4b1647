import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { demoPlan, engineOf } from "../../tests/support/plans.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { carriersOfTrip, gatewaysOf, walkBothWays } from "../forwarding/index.ts";
import { elementCount } from "../network/index.ts";
import type { Engine, Step } from "../outage/index.ts";
import { flowQuestions, momentOf, stepsOf, timelineReport } from "./index.ts";

/** In the middle of each span, a flow must do what the timeline says of it there. */
function agreesThroughout(engine: Engine, steps: Step[]) {
  const gateways = gatewaysOf(engine.healthy.world);
  const report = timelineReport(engine, gateways, steps);
  for (const [i, { flow, question }] of flowQuestions(engine).entries()) {
    expect(report.flows[i].id).toBe(flow.id);
    for (const span of report.flows[i].spans) {
      const within = span.toMs === null ? span.fromMs + 1e6 : (span.fromMs + span.toMs) / 2;
      const trip = walkBothWays(momentOf(engine, gateways, steps, within).world, question);
      expect({
        verdict: trip.verdict,
        carriers: carriersOfTrip(gateways, trip).map((g) => gateways[g].id),
      }).toEqual({
        verdict: span.verdict,
        carriers: span.carriers,
      });
    }
  }
}

describe("a moment of an outage", () => {
  it("shows what the timeline tells of that time, on random plans", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), fc.nat(10_000), (seed, pick) => {
        const engine = engineOf(randomPlan(seed, { mistakes: seed % 2 === 0 }));
        const element = pick % elementCount(engine.network);
        if (engine.healthy.flapping.length) return;
        agreesThroughout(engine, [
          { atMs: 2000, fail: [element], restore: [] },
          { atMs: 50_000, fail: [], restore: [element] },
        ]);
      }),
      { numRuns: 60 },
    );
  });

  it("shows it for the demo's saved outages, and everything as it was before they begin", () => {
    const engine = engineOf(demoPlan("marrow-bay"));
    const gateways = gatewaysOf(engine.healthy.world);
    for (const outage of engine.network.plan.outages) {
      const steps = stepsOf(engine, outage);
      agreesThroughout(engine, steps);
      expect(momentOf(engine, gateways, steps, -1).world).toBe(engine.healthy.world);
      const { stops, events } = momentOf(engine, gateways, steps, 50);
      expect(stops.slice(0, 2)).toEqual(outage.id === "ring-silent" ? [0, 120_000] : [0, 100]);
      expect(events[0]).toMatch(/^link:.* fails$/);
    }
  });
});
