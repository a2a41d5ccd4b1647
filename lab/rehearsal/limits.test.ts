import { describe, expect, it } from "vitest";
import { demoPlan } from "../../tests/support/plans.ts";
import { tooMuch } from "./limits.ts";

describe("what is too much for a lab", () => {
  it("is a plan of many devices, or an outage of hours", () => {
    const demo = demoPlan("marrow-bay");
    for (const { steps } of demo.outages) expect(tooMuch(demo, steps)).toBeNull();
    expect(tooMuch(demo, [{ atMs: 7_200_000, restore: [] }])).toBe(
      "it happens in real time, for at most 15 minutes, and this outage takes 120",
    );
    const many = { ...demo, devices: Array.from({ length: 151 }, () => demo.devices[0]) };
    expect(tooMuch(many, [{ atMs: 0 }])).toBe("a lab holds at most 150 devices, and this plan has 151");
  });
});
