import { describe, expect, it } from "vitest";
import { planOf } from "../../tests/support/plans.ts";
import {
  type Bundled,
  bundleOfTwo,
  type Loose,
  pairOfFirewalls,
  twoGateways,
} from "../../tests/support/shared-plans.ts";
import type { Outage, Plan } from "../plan/index.ts";
import { sweepReport, timelineReport } from "../reports/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { downText } from "../words/index.ts";

function flowOf(plan: Plan, steps: Outage["steps"]) {
  const model = NetworkModel.compile(plan);
  return timelineReport(model.engine, model.gateways, model.stepsOf(steps)).flows[0];
}

const fail = (...refs: string[]): Outage["steps"] => [{ atMs: 0, fail: refs }];
const lacp = (left: string, right: string, more: Bundled = {}) =>
  bundleOfTwo({ left: { lacp: left }, right: { lacp: right }, media: ["circuit", "circuit"], ...more });

describe("rule 15.1: bundles (IEEE 802.1AX)", () => {
  it("carry on over the members that are left", () => {
    const { outageMs, spans } = flowOf(bundleOfTwo(), fail("link:b1"));
    // Half of the packets are lost until the carrier delay has passed.
    expect(spans[0]).toMatchObject({ verdict: "fails", partly: true, toMs: 100 });
    expect(outageMs).toEqual({ min: 100, max: 100 });
  });

  it.each([
    // Three times a second, or three times thirty; each end by its own.
    ["fast", "fast", 2000, 3000],
    ["slow", "slow", 60_000, 90_000],
    ["slow", "fast", 60_000, 90_000],
  ])("notice a silently dead member: %s and %s between %d and %d ms", (left, right, min, max) => {
    const { spans, leastSpans, outageMs } = flowOf(lacp(left, right), fail("link:b1"));
    expect(spans[0]).toMatchObject({ verdict: "fails", partly: true });
    expect([leastSpans[0].toMs, spans[0].toMs]).toEqual([min, max]);
    expect(outageMs.max).toBe(max);
  });

  it("never notice it where their ends do not assure each other: those hashed onto it die, the others live", () => {
    const { spans, outageMs } = flowOf(lacp("off", "off"), fail("link:b1"));
    expect(spans.at(-1)).toMatchObject({ verdict: "fails", partly: true, toMs: null });
    expect(outageMs.max).toBeNull();
  });

  it("are down below minUp, at both ends", () => {
    const plan = bundleOfTwo({ left: { minUp: 2 } });
    const { world } = NetworkModel.compile(plan).under(["link:b2"]);
    const up = (name: string) =>
      world.state.interfaceUp[world.state.network.interfaceIndex.get(name) as number];
    expect([up("r1/agg"), up("r2/agg")]).toEqual([0, 1]);
    expect(flowOf(plan, fail("link:b2")).outageMs.max).toBeNull();
  });

  it("say why they are down", () => {
    const told = (plan: Plan, name: string, ...down: string[]) => {
      const { state } = NetworkModel.compile(plan).under(down).world;
      return downText(state, state.network.interfaceIndex.get(name) as number);
    };
    const both = bundleOfTwo({ left: { minUp: 2 } });
    expect(told(both, "r1/agg", "link:b2")).toBe("agg is down: 1 of its members is up, and it needs 2");
    expect(told(lacp("fast", "fast"), "r1/p1", "link:b1")).toBe("p1 is down: no LACP from the far end");
    expect(told(tagged(20, 20), "r1/e.v", "link:trunk")).toBe("e.v has no carrier: its parent e is down");
    expect(told(pairOfFirewalls(), "fwb/outside")).toBe(
      "outside is standby: fwa is the active one of the pair",
    );
  });

  it("lose everything with both members, told as links that are dead", () => {
    const model = NetworkModel.compile(lacp("off", "off")).under(["link:b1", "link:b2"]);
    const trip = model.trips().get("f");
    expect(trip?.worst.outbound.drop?.code).toBe("link-dead");
    expect(trip?.branches.length).toBe(1);
  });

  it("stand on a link of several with their members, as on a switch", () => {
    const plan = planOf({
      devices: [
        { id: "pc", role: "host", interfaces: [{ name: "e", addresses: ["10.0.0.9/24"] }] },
        {
          id: "r",
          role: "router",
          interfaces: [
            { name: "p1" },
            { name: "p2" },
            { name: "agg", kind: "bundle", members: ["p1", "p2"], addresses: ["10.0.0.1/24"] },
          ],
        },
      ],
      links: [{ id: "lan", medium: "switch", ends: ["pc/e", "r/p1", "r/p2"] }],
      flows: [{ id: "f", from: "pc", to: "r" }],
    });
    const model = NetworkModel.compile(plan);
    expect(model.trips().get("f")?.verdict).toBe("works");
    expect(model.under(["interface:r/p1"]).trips().get("f")?.verdict).toBe("works");
    expect(model.under(["interface:r/p1", "interface:r/p2"]).trips().get("f")?.verdict).toBe("fails");
  });
});

const tagged = (left: number, right: number, medium = "cable", trunk: Loose | null = {}) =>
  planOf({
    devices: [1, 2].map((n) => ({
      id: `r${n}`,
      role: "router",
      interfaces: [
        { name: "e" },
        { name: "e.v", parent: "e", vlan: n === 1 ? left : right, addresses: [`192.0.2.${n}/30`] },
      ],
    })),
    links: [
      ...(trunk ? [{ id: "trunk", ends: ["r1/e", "r2/e"], ...trunk }] : []),
      { id: "tags", medium, ends: ["r1/e.v", "r2/e.v"] },
    ],
    flows: [{ id: "f", from: "r1", to: "192.0.2.2" }],
  });

describe("rule 15.2: tagged interfaces (IEEE 802.1Q)", () => {
  const verdict = (plan: Plan, ...down: string[]) =>
    NetworkModel.compile(plan).under(down).trips().get("f")?.verdict;

  it("are up while the one that they pass is, and dead with its link", () => {
    expect(verdict(tagged(20, 20))).toBe("works");
    expect(verdict(tagged(20, 20), "link:trunk")).toBe("fails");
    expect(verdict(tagged(20, 20), "interface:r2/e")).toBe("fails");
    expect(verdict(tagged(20, 20), "link:tags")).toBe("fails");
    expect(verdict(tagged(20, 20, "circuit", { medium: "circuit" }), "link:trunk")).toBe("fails");
  });

  it("pass nothing over a cable with another tag; a switch or a circuit translates", () => {
    expect(verdict(tagged(20, 21))).toBe("fails");
    expect(verdict(tagged(20, 21, "switch"))).toBe("works");
    expect(verdict(tagged(20, 21, "circuit"))).toBe("works");
  });

  it("need not have what they pass drawn", () => {
    expect(verdict(tagged(20, 20, "cable", null))).toBe("works");
    expect(verdict(tagged(20, 20, "cable", null), "interface:r1/e")).toBe("fails");
  });
});

describe("rule 16: what shares a fate", () => {
  const plan = () => {
    const base = twoGateways({ a: { track: [{ interface: "wan", lower: 30 }] } });
    return planOf({
      ...base,
      devices: base.devices.map((device) => ({
        ...device,
        ...(device.id === "ra" || device.id === "rb" ? { site: "hut" } : {}),
      })),
      links: [
        ...base.links.map((link) => (["wa", "wb"].includes(link.id) ? { ...link, over: ["duct"] } : link)),
        { id: "duct" },
      ],
      risks: [{ id: "room", label: "The room", of: ["device:ra", "link:wb"] }],
      outages: [],
    });
  };

  it("fails all that rides on a link, whatever has ends of its own (16.1)", () => {
    const model = NetworkModel.compile(plan());
    expect(model.under(["link:duct"]).trips().get("f")?.verdict).toBe("fails");
    expect(model.under(["link:wa"]).trips().get("f")?.verdict).toBe("works");
  });

  it("fails risks and sites whole, as columns of the sweep (16.2)", () => {
    const model = NetworkModel.compile(plan());
    const [{ failures }] = sweepReport(model.engine, model.gateways, 1).flows;
    const of = (ref: string) => failures.find(({ failed }) => failed.join() === ref)?.verdict;
    expect([of("link:duct"), of("risk:room"), of("site:hut"), of("device:ra")]).toEqual([
      "fails",
      "fails",
      "fails",
      "works",
    ]);
  });

  it("brings back what several failures took once all are restored", () => {
    const { spans } = flowOf(plan(), [
      { atMs: 0, fail: ["risk:room", "device:ra"] },
      { atMs: 60_000, restore: ["risk:room"] },
      { atMs: 120_000, restore: ["device:ra"] },
    ]);
    const back = spans.find(({ fromMs, carriers }) => fromMs >= 60_000 && carriers[0] === "left");
    // With the capacity restored, the other path carries; ra remains down until its own failure ends.
    expect(back?.fromMs).toBeGreaterThan(120_000);
  });
});

describe("rule 9.7: a watch of a route", () => {
  it("is up while a route to the very prefix is in use", () => {
    const watches = [{ id: "out", kind: "route", to: "0.0.0.0/0" }];
    const model = NetworkModel.compile(
      twoGateways({ ra: { watches }, a: { track: [{ watch: "out", lower: 30 }] } }),
    );
    const { watchUp } = model.world.state;
    expect(watchUp[0]).toBe(1);
    expect(model.under(["link:wa"]).world.state.watchUp[0]).toBe(0);
    expect(model.under(["link:wa"]).trips().get("f")?.verdict).toBe("works");
  });
});

describe("rule 1: routes that are kept without carrier", () => {
  it("stay in use, and packets die there", () => {
    const profiles = [{ id: "keeping", base: "metric-router", carrierLoss: "keep" }];
    const plan = (profile: string) =>
      twoGateways({
        a: null,
        b: null,
        ra: {
          profile,
          routes: [
            { to: "0.0.0.0/0", via: "198.51.100.1" },
            { to: "0.0.0.0/0", via: "172.20.16.3", metric: 10 },
          ],
        },
        plan: { profiles, flows: [{ id: "f", from: "ra", to: "srv" }] },
      });
    const trip = (profile: string) => NetworkModel.compile(plan(profile)).under(["link:wa"]).trips().get("f");
    expect(trip("keeping")?.worst.outbound.drop?.code).toBe("link-dead");
    expect(trip("metric-router")?.worst.outbound.result).toBe("delivered");
  });
});
