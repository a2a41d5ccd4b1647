import fc from "fast-check";
import { expect, it } from "vitest";
import { revisionText, stageOf, stageRevision } from "./index.ts";

it("a stage has a number of its own, by steps and by ticks", () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 9_999 }), fc.nat(4_999), fc.boolean(), (change, steps, byTicks) => {
      const stage = byTicks ? { change, steps, byTicks: true as const } : { change, steps };
      const number = stageRevision(stage);
      expect(number !== null && stageOf(number)).toEqual(stage);
    }),
  );
  expect(stageRevision({ change: 1, steps: 5_000 })).toBe(null);
  expect(stageRevision({ change: 0, steps: 1 })).toBe(null);
  expect(stageOf(12)).toBe(null);
  expect(revisionText(stageRevision({ change: 3, steps: 2, byTicks: true }) as number)).toBe(
    "change 3 with the steps done so far",
  );
});
