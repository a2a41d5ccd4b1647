import { describe, expect, it } from "vitest";
import { demoPlan } from "../../tests/support/plans.ts";
import { tooMuch } from "./limits.ts";

describe("what is too much for a lab", () => {
  it("is a plan of many devices, or an outage of hours", () => {
    const demo = demoPlan("marrow-bay");
    for (const { steps } of demo.outages) expect(tooMuch(demo, steps)).toBeNull();
    expect(tooMuch(demo, [{ atMs: 7_200_000, restore: [] }])).toBe(
      "the outage takes 120 min in real time; the limit is 15 min",
    );
    const many = { ...demo, devices: Array.from({ length: 151 }, () => demo.devices[0]) };
    expect(tooMuch(many, [{ atMs: 0 }])).toBe("the plan has 151 devices; the lab's limit is 150");
  });
});
