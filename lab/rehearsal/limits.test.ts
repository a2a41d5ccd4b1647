import { describe, expect, it } from "vitest";
import { fleet } from "../../bench/fleet.ts";
import { demoPlan } from "../../tests/support/plans.ts";
import { tooMuch } from "./limits.ts";

describe("what is too much for a lab", () => {
  it("is a plan of many devices, or an outage of hours", () => {
    const demo = demoPlan("marrow-bay");
    for (const { steps } of demo.outages) expect(tooMuch(demo, steps)).toBeNull();
    expect(tooMuch(demo, [{ atMs: 7_200_000, restore: [] }])).toBe(
      "it happens in real time, for at most 15 minutes, and this outage takes 120",
    );
    expect(tooMuch(fleet({ devices: 151, links: 200, flows: 5, routes: 300 }), [{ atMs: 0 }])).toBe(
      "a lab holds at most 150 devices, and this plan has 151",
    );
  });
});
