import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { sameValue } from "../core/plan/index.ts";
import { demoPlan } from "../tests/support/plans.ts";
import { randomPlan } from "../tests/support/random-plan.ts";
import { readPlanText, writePlanText } from "./plan-text.ts";

describe("documents as text", () => {
  it.each(["json", "yaml"] as const)("read back from %s what was written", (format) => {
    fc.assert(
      fc.property(fc.nat(100_000), (seed) => {
        const plan = randomPlan(seed, { mistakes: true, family: seed % 2 ? 4 : 6 });
        const reading = readPlanText(writePlanText(plan, format));
        expect(reading.ok && sameValue(reading.plan, plan)).toBe(true);
      }),
      { numRuns: 30 },
    );
    const demo = demoPlan("marrow-bay");
    const reading = readPlanText(writePlanText(demo, format));
    expect(reading.ok && sameValue(reading.plan, demo)).toBe(true);
  });

  it("names the schema in the first line of YAML, and is read back all the same", () => {
    const text = writePlanText(demoPlan("three-routers"), "yaml", "http://127.0.0.1:3000/plan.schema.json");
    expect(text.split("\n")[0]).toBe(
      "# yaml-language-server: $schema=http://127.0.0.1:3000/plan.schema.json",
    );
    expect(readPlanText(text).ok).toBe(true);
  });

  it("tells the place of a fault in the text", () => {
    const reading = readPlanText('{\n  "ironFork": 1,\n  "name": oops\n}');
    expect(!reading.ok && reading.errors[0].message).toMatch(/line 3/);
  });

  it("refuses aliases that would blow up", () => {
    const bomb = `ironFork: 1\nname: x\na: &a [1,1,1,1,1,1,1,1,1,1]\n${Array.from({ length: 8 }, (_, i) => `${"bcdefghi"[i]}: &${"bcdefghi"[i]} [${`*${"abcdefgh"[i]},`.repeat(9)}*${"abcdefgh"[i]}]`).join("\n")}\n`;
    const reading = readPlanText(bomb);
    expect(!reading.ok && reading.errors[0].message).toMatch(/aliases|not modeled/);
  });
});
