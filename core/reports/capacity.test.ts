import { describe, expect, it } from "vitest";
import { planOf } from "../../tests/support/plans.ts";
import { twoGateways } from "../../tests/support/shared-plans.ts";
import type { Plan } from "../plan/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { OverloadReporter, runThrough } from "./index.ts";

const tracked = { a: { track: [{ interface: "wan", lower: 30 }] } };
const both = (left: number | null, right: number | null) =>
  twoGateways({
    ...tracked,
    flow: { mbps: 20 },
    plan: {
      gateways: [
        { id: "left", at: "ra/wan", ...(left ? { mbps: left } : {}) },
        { id: "right", at: "rb/wan", ...(right ? { mbps: right } : {}) },
      ],
    },
  });

const teller = (plan: Plan) => {
  const model = NetworkModel.compile(plan);
  return new OverloadReporter(model.engine, model.gateways, model.flows());
};
const inTime = (plan: Plan, steps: Plan["outages"][number]["steps"]) => {
  const model = NetworkModel.compile(plan);
  return runThrough(model.engine, model.gateways, model.stepsOf(steps)).crowded;
};

describe("rule 19: room enough", () => {
  it("is told under a failure and as it is, and not where it fits to the last bit", () => {
    const narrow = teller(both(100, 10));
    expect(narrow.under([])).toEqual([]);
    expect(narrow.under(["link:wa"])).toEqual([
      "the gateway right must carry 20 Mbit/s of flow f but has 10",
    ]);
    expect(teller(both(100, 20)).under(["link:wa"])).toEqual([]);
    expect(teller(both(15, 100)).under([])).toHaveLength(1);
  });

  it("says nothing without figures, of flows or of what carries them", () => {
    expect(teller(both(null, null)).under(["link:wa"])).toEqual([]);
    const { flows, ...rest } = both(1, 1);
    const untold = planOf({ ...rest, flows: flows.map(({ mbps: _mbps, ...flow }) => flow) });
    expect(teller(untold).under(["link:wa"])).toEqual([]);
  });

  it("counts nothing for a flow that does not work, or whose failure nobody knows", () => {
    expect(teller(both(100, 10)).under(["link:wa", "link:wb"])).toEqual([]);
    expect(teller(both(100, 10)).under(["link:unheard-of"])).toEqual([]);
  });

  it("is told in time, from the takeover until what failed is back", () => {
    const spans = inTime(both(100, 10), [
      { atMs: 500, fail: ["link:wa"] },
      { atMs: 20_500, restore: ["link:wa"] },
    ]);
    expect(spans).toHaveLength(1);
    const [{ fromMs, toMs, text }] = spans;
    expect(text).toContain("the gateway right must carry 20 Mbit/s");
    // The Master Down Interval of priority 100 at one second is 3.61 s at most, and what detects the loss comes before it.
    expect(fromMs).toBeGreaterThan(2_000);
    expect(fromMs).toBeLessThan(4_000);
    expect(toMs).toBeGreaterThan(20_000);
    expect(inTime(both(100, 10), [{ atMs: 0, fail: ["link:wa"] }])[0].toMs).toBeNull();
    expect(inTime(both(15, 100), [{ atMs: 0, fail: ["link:wb"] }])[0]).toMatchObject({
      fromMs: 0,
      toMs: null,
    });
  });

  it("splits evenly where ways share the load: each direction of a link by itself", () => {
    const spine = (id: string, n: number) => ({
      id,
      role: "router",
      interfaces: [
        { name: "a", addresses: [`10.0.${n}.2/30`] },
        { name: "b", addresses: [`10.1.${n}.2/30`] },
      ],
      routes: [
        { to: "10.8.0.0/24", via: `10.0.${n}.1` },
        { to: "10.9.0.0/24", via: `10.1.${n}.1` },
      ],
    });
    // Replies use the second link only, so they must not break with the first.
    const leaf = (id: string, side: 0 | 1, own: number) => ({
      id,
      role: "router",
      interfaces: [
        { name: "one", addresses: [`10.${side}.1.1/30`] },
        { name: "two", addresses: [`10.${side}.2.1/30`] },
        { name: "lan", kind: "loopback", addresses: [`10.${own}.0.1/24`] },
      ],
      routes: (side === 0 ? [1, 2] : [2]).map((n) => ({
        to: `10.${17 - own}.0.0/24`,
        via: `10.${side}.${n}.2`,
      })),
    });
    const plan = (mbps: number) =>
      planOf({
        devices: [leaf("la", 0, 8), leaf("lb", 1, 9), spine("s1", 1), spine("s2", 2)],
        links: [
          { id: "a1", ends: ["la/one", "s1/a"], mbps },
          { id: "a2", ends: ["la/two", "s2/a"], mbps },
          { id: "b1", ends: ["lb/one", "s1/b"] },
          { id: "b2", ends: ["lb/two", "s2/b"] },
        ],
        flows: [{ id: "f", from: "la", source: "10.8.0.1", to: "10.9.0.1", mbps: 20 }],
      });
    expect(teller(plan(10)).under([])).toEqual([]);
    expect(teller(plan(9)).under([]).sort()).toEqual([
      "the link a1 must carry 10 Mbit/s of flow f but has 9",
      "the link a2 must carry 10 Mbit/s of flow f but has 9",
    ]);
    // One of two is gone: the other carries all of it.
    expect(teller(plan(10)).under(["link:a1"])).toEqual([
      "the link a2 must carry 20 Mbit/s of flow f but has 10",
    ]);
  });
});
