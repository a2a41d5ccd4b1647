import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { demoPlan } from "../../tests/support/plans.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { elementCount, formatElement } from "../network/index.ts";
import type { Outage } from "../plan/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { carriersOfTrip } from "../walk/index.ts";
import { eventTexts, timelineReport } from "./index.ts";

/** In the middle of each span, a flow must do what the timeline says of it there. */
function agreesThroughout(model: NetworkModel, steps: Outage["steps"]) {
  const { engine, gateways } = model;
  const report = timelineReport(engine, gateways, model.stepsOf(steps));
  for (const [i, { flow, question }] of model.flows().entries()) {
    expect(report.flows[i].id).toBe(flow.id);
    for (const span of report.flows[i].spans) {
      const within = span.toMs === null ? span.fromMs + 1e6 : (span.fromMs + span.toMs) / 2;
      const trip = model.at(steps, within).scenario.trace(question);
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
        const model = NetworkModel.compile(randomPlan(seed, { mistakes: seed % 2 === 0 }));
        const element = formatElement(model.network, pick % elementCount(model.network));
        if (model.settled.flapping.length) return;
        agreesThroughout(model, [
          { atMs: 2000, fail: [element] },
          { atMs: 50_000, restore: [element] },
        ]);
      }),
      { numRuns: 60 },
    );
  });

  it("shows it for the demo's saved outages, and everything as it was before they begin", () => {
    const model = NetworkModel.compile(demoPlan("marrow-bay"));
    for (const { id, steps } of model.plan.outages) {
      agreesThroughout(model, steps);
      expect(model.at(steps, -1).scenario.world).toBe(model.world);
      const stopped = model.at(steps, 50);
      expect(stopped.stops.slice(0, 2)).toEqual(id === "ring-silent" ? [0, 120_000] : [0, 100]);
      expect(eventTexts(model, stopped)[0]).toMatch(/^(link|device|risk):.* fails$/);
    }
  });
});
