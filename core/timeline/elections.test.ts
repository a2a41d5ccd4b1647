import { describe, expect, it } from "vitest";
import { planOf } from "../../tests/support/plans.ts";
import { type Gateways, pairOfFirewalls, twoGateways } from "../../tests/support/shared-plans.ts";
import { findAll } from "../findings/index.ts";
import type { Outage, Plan } from "../plan/index.ts";
import { timelineReport } from "../reports/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { activeDownMs, skewMs } from "../settle/index.ts";

function through(plan: Plan, steps: Outage["steps"]) {
  const model = NetworkModel.compile(plan);
  return timelineReport(model.engine, model.gateways, model.stepsOf(steps));
}

const flowOf = (plan: Plan, steps: Outage["steps"]) => through(plan, steps).flows[0];
const fail = (...refs: string[]): Outage["steps"] => [{ atMs: 0, fail: refs }];
const tracking = (more: Gateways = {}) =>
  twoGateways({ a: { track: [{ interface: "wan", lower: 30 }] }, ...more });

describe("rule 14.2: the times of RFC 9568, section 6.1", () => {
  it.each([
    // Priority, advertisement interval, Skew_Time, Active_Down_Interval; computed by hand.
    [100, 1000, 609.375, 3609.375],
    [110, 1000, 570.3125, 3570.3125],
    [254, 1000, 7.8125, 3007.8125],
    [1, 1000, 996.09375, 3996.09375],
    [100, 100, 60.9375, 360.9375],
    [200, 40_950, 8957.8125, 131_807.8125],
  ])("of priority %d every %d ms: skew %d, down after %d", (priority, advertMs, skew, down) => {
    expect(skewMs(priority, advertMs)).toBe(skew);
    expect(activeDownMs(priority, advertMs)).toBe(down);
  });
});

describe("rule 14: a Backup takes over", () => {
  it("from an Active that dies silently, after what is left of Active_Down_Interval, bounds outward", () => {
    const { spans, outageMs, lost } = flowOf(twoGateways({ flow: { rate: 10 } }), fail("device:ra"));
    expect(outageMs).toEqual({ min: 2609, max: 3610 });
    expect(lost).toEqual({ min: 26, max: 37 });
    expect(spans.map(({ verdict, carriers }) => [verdict, carriers])).toEqual([
      ["fails", []],
      ["works", ["right"]],
    ]);
  });

  it("after Skew_Time alone where the Active is shut: priority 0 says so (14.2)", () => {
    const { outageMs } = flowOf(twoGateways(), [{ atMs: 0, shut: ["device:ra"] }]);
    expect(outageMs).toEqual({ min: 609, max: 610 });
  });

  it("by the interval at which the Active was heard, not by its own", () => {
    const plan = twoGateways({ a: { advertMs: 100 }, b: { advertMs: 5000 } });
    // 3 × 100 + 156 × 100 / 256, and one interval less.
    expect(flowOf(plan, fail("device:ra")).outageMs).toEqual({ min: 260, max: 361 });
  });

  it("from an Active whose tracked interface went down, 2 to 3 intervals and the skew after the lowering (14.3)", () => {
    const { spans, leastSpans, outageMs } = flowOf(tracking(), fail("link:wa"));
    // The carrier delay of 100 ms comes first; until the takeover, packets to the Active are lost.
    expect(outageMs).toEqual({ min: 2709, max: 3710 });
    expect(spans.at(-1)?.carriers).toEqual(["right"]);
    expect(leastSpans[0].toMs).toBe(2709);
  });

  it("with no silence where the old Active can still forward (14.3)", () => {
    const plan = tracking({
      a: { track: [{ watch: "far", lower: 30 }] },
      ra: { watches: [{ id: "far", kind: "probe", target: "203.0.113.99", out: "wan", failAfter: 1 }] },
    });
    const model = NetworkModel.compile(plan);
    // The probe's target never answers: rb has been Active from the start, and nothing is lost.
    expect(model.trips().get("f")?.verdict).toBe("works");
    expect([...model.world.state.roles.virtualActive]).toEqual([0, 1]);
  });

  it("only by a strictly higher priority, and not at all where it may not preempt (14.1, 14.3)", () => {
    const equal = twoGateways({ a: { track: [{ interface: "wan", lower: 10 }] } });
    expect(flowOf(equal, fail("link:wa")).outageMs.max).toBeNull();
    const without = tracking({ b: { preempt: false } });
    expect(flowOf(without, fail("link:wa")).outageMs.max).toBeNull();
  });
});

describe("rule 14.4: what returns", () => {
  const outage = (of: string) => [
    { atMs: 0, fail: [of] },
    { atMs: 60_000, restore: [of] },
  ];
  const backAt = (plan: Plan, of = "device:ra") => {
    const { spans, leastSpans } = flowOf(plan, outage(of));
    const at = (list: typeof spans) =>
      list.find(({ carriers, fromMs }) => fromMs > 60_000 && carriers[0] === "left");
    return [at(leastSpans)?.fromMs, at(spans)?.fromMs];
  };

  it("comes as Backup and takes over a whole Active_Down_Interval after its carrier is back", () => {
    // 60,000 + 100 of carrier + 3 × 1000 + 146 × 1000 / 256.
    expect(backAt(twoGateways())).toEqual([63_670, 63_671]);
  });

  it("waits for preemptDelayMs besides: at least the greater, at most the sum", () => {
    expect(backAt(twoGateways({ a: { preemptDelayMs: 10_000 } }))).toEqual([70_100, 73_671]);
  });

  it("stays Backup where it does not preempt", () => {
    expect(backAt(twoGateways({ a: { preempt: false } }))).toEqual([undefined, undefined]);
  });

  it("takes over at once where it owns the address", () => {
    const plan = twoGateways({ a: { addresses: ["172.20.16.2"] }, b: { addresses: ["172.20.16.2"] } });
    const owned = {
      ...plan,
      devices: plan.devices.map((device) =>
        device.id === "pc" ? { ...device, routes: [{ to: "0.0.0.0/0", via: "172.20.16.2" }] } : device,
      ),
    };
    expect(backAt(owned)).toEqual([60_100, 60_100]);
  });

  it("boots first (10.5)", () => {
    expect(backAt(twoGateways({ ra: { bootMs: 90_000 } }))).toEqual([153_670, 153_671]);
  });
});

describe("rule 14.5: a link that parts silently", () => {
  it("has an Active in each part, and the lower one steps back within one interval once it heals", () => {
    const plan = twoGateways({ lan: { medium: "circuit" } });
    const { events } = through(plan, [
      { atMs: 0, fail: ["link:lan"] },
      { atMs: 60_000, restore: ["link:lan"] },
    ]);
    const told = events.filter(({ what }) => what.startsWith("virtual"));
    expect(told).toEqual([
      { atMs: 3610, what: "virtual router 16 on rb/lan becomes Active" },
      { atMs: 61_000, what: "virtual router 16 on rb/lan is no longer Active" },
    ]);
  });
});

describe("rule 14.1: who answers, and for what", () => {
  it("drops what is sent to a virtual address that is not its own, unless it accepts", () => {
    const ask = (plan: Plan) => {
      const model = NetworkModel.compile({ ...plan, flows: [{ id: "v", from: "srv", to: "172.20.16.1" }] });
      return model.trips().get("v");
    };
    expect(ask(twoGateways())?.worst.outbound.drop?.code).toBe("virtual-not-accepted");
    expect(ask(twoGateways({ a: { accept: true } }))?.verdict).toBe("works");
  });

  it("takes the greater primary address where priorities are equal", () => {
    const model = NetworkModel.compile(twoGateways({ a: { priority: 100 } }));
    expect([...model.world.state.roles.virtualActive]).toEqual([0, 1]);
  });

  it("moves those of one sync together, with priority 0 (14.7)", () => {
    const base = twoGateways();
    const router = (id: string, n: number, priority: number) => ({
      id,
      role: "router",
      interfaces: sides(n, priority),
      routes: [{ to: "0.0.0.0/0", via: "198.51.100.1" }],
    });
    const plan = planOf({
      ...base,
      gateways: [],
      devices: [
        ...base.devices.filter(({ id }) => id === "pc" || id === "srv"),
        router("ra", 2, 110),
        router("rb", 3, 100),
        {
          id: "isp",
          role: "router",
          interfaces: [
            { name: "a", addresses: ["198.51.100.1/24"] },
            { name: "srv", addresses: ["203.0.113.1/24"] },
          ],
          routes: [{ to: "172.20.16.0/24", via: "198.51.100.9" }],
        },
      ],
      links: [
        ...base.links.filter(({ id }) => id === "lan" || id === "sl"),
        { id: "wan", medium: "switch", ends: ["ra/wan", "rb/wan", "isp/a"] },
      ],
    });
    const { events } = through(plan, fail("interface:ra/wan"));
    expect(events.filter(({ what }) => what.startsWith("virtual")).map(({ what }) => what)).toEqual([
      "virtual router 16 on ra/lan is no longer Active",
      "virtual router 17 on ra/wan is no longer Active",
      "virtual router 16 on rb/lan becomes Active",
      "virtual router 17 on rb/wan becomes Active",
    ]);
    // The LAN side received the announcement (Skew_Time); the other side stopped hearing advertisements.
    expect(events.find(({ what }) => what.includes("rb/lan becomes Active"))?.atMs).toBe(3610);
    expect(events.find(({ what }) => what.includes("rb/wan becomes Active"))?.atMs).toBe(3610);
  });
});

describe("rule 14.7: a sync group of which one hears a better one", () => {
  it("stays Backup as a whole, which leaves an address without anybody: a finding", () => {
    const virtual = (id: number, priority: number, sync?: string) => [
      { id, addresses: [`10.0.${id}.1`], priority, ...(sync ? { sync } : {}) },
    ];
    const plan = planOf({
      devices: [
        {
          id: "ra",
          role: "router",
          interfaces: [
            { name: "one", addresses: ["10.0.1.2/24"], virtual: virtual(1, 100, "both") },
            { name: "two", addresses: ["10.0.2.2/24"], virtual: virtual(2, 100, "both") },
          ],
        },
        {
          id: "rb",
          role: "router",
          interfaces: [{ name: "two", addresses: ["10.0.2.3/24"], virtual: virtual(2, 200) }],
        },
      ],
      links: [
        { id: "one", medium: "switch", ends: ["ra/one"] },
        { id: "two", medium: "switch", ends: ["ra/two", "rb/two"] },
      ],
    });
    const model = NetworkModel.compile(plan);
    expect([...model.world.state.roles.virtualActive]).toEqual([0, 0, 1]);
    const found = findAll(model).filter(({ code }) => code === "sync-keeps-backup");
    expect(found.map(({ text }) => text)).toEqual([
      "No router is Active for virtual router 1 on ra/one: ra stays Backup, because virtual router 2 on ra/two of the same sync group hears a better Active.",
    ]);
    // Once the better one is gone, both are Active.
    expect([...model.under(["device:rb"]).world.state.roles.virtualActive]).toEqual([1, 1, 0]);
  });
});

function sides(n: number, priority: number) {
  const virtual = (id: number, address: string) => [{ id, addresses: [address], priority, sync: "both" }];
  return [
    { name: "lan", addresses: [`172.20.16.${n}/24`], virtual: virtual(16, "172.20.16.1") },
    { name: "wan", addresses: [`198.51.100.${n}/24`], virtual: virtual(17, "198.51.100.9") },
  ];
}

describe("rule 17: pairs", () => {
  it("17.1: share their addresses, which the active one alone uses", () => {
    const model = NetworkModel.compile(pairOfFirewalls());
    const firewallUnder = (failed: string[]) => {
      const scenario = model.under(failed);
      const hops = scenario.trips().get("f")?.worst.outbound.hops ?? [];
      return hops.map(({ device }) => scenario.world.state.network.devices[device].id)[1];
    };
    expect(firewallUnder([])).toBe("fwa");
    expect(firewallUnder(["device:fwa"])).toBe("fwb");
    expect(firewallUnder(["device:fwb"])).toBe("fwa");
  });

  it("hand over between missed - 1 and missed hellos after the active one died (17.2)", () => {
    const { outageMs } = flowOf(pairOfFirewalls(), fail("device:fwa"));
    expect(outageMs).toEqual({ min: 2000, max: 3000 });
    const slow = pairOfFirewalls({ pair: { helloMs: 250, missed: 5 } });
    expect(flowOf(slow, fail("device:fwa")).outageMs).toEqual({ min: 1000, max: 1250 });
  });

  it("hand over at once where the active one is shut", () => {
    expect(flowOf(pairOfFirewalls(), [{ atMs: 0, shut: ["device:fwa"] }]).outageMs).toEqual({
      min: 0,
      max: 0,
    });
  });

  it("hand over within a hello where what the active one monitors is down, and its own is better", () => {
    const plan = pairOfFirewalls({ pair: { monitor: ["outside"] } });
    // The carrier delay first; the standby knows 0 to 1000 ms after the active one noticed.
    expect(flowOf(plan, fail("interface:fwa/outside")).outageMs).toEqual({ min: 0, max: 1000 });
    expect(flowOf(pairOfFirewalls(), fail("interface:fwa/outside")).outageMs.max).toBeNull();
    // What both have lost moves nothing.
    expect(flowOf(plan, fail("link:out")).outageMs.max).toBeNull();
  });

  it("stay where they are when the preferred one is back, unless it preempts", () => {
    const outage = [
      { atMs: 0, fail: ["device:fwa"] },
      { atMs: 60_000, restore: ["device:fwa"] },
    ];
    const moves = (preempt: boolean) =>
      through(pairOfFirewalls({ pair: { preempt } }), outage)
        .events.filter(({ what, atMs }) => atMs >= 60_000 && what.includes("of the pair"))
        .map(({ what }) => what);
    expect(moves(false)).toEqual([]);
    // The events are those of the run in which flows stand still longest: one lets go before the other takes over.
    expect(moves(true)).toEqual([
      "fwb is no longer the active member of the pair hq",
      "fwa takes over as the active member of the pair hq",
    ]);
  });

  it("are both active once they hear each other no more, and what goes through is uncertain (17.4)", () => {
    const flow = flowOf(pairOfFirewalls({ b: { routes: [] } }), fail("link:hb"));
    expect(flow.spans.at(-1)).toMatchObject({ verdict: "fails", uncertain: true });
    const sound = flowOf(pairOfFirewalls(), fail("link:hb"));
    expect(sound.spans.at(-1)).toMatchObject({ verdict: "works", uncertain: true, carriers: ["way"] });
  });

  it("keep what is established where the standby is told, and break it where it is not (17.3)", () => {
    expect(flowOf(pairOfFirewalls(), fail("device:fwa")).sessions).toEqual({
      state: "broken",
      reason: "fwb has no session state",
    });
    const told = pairOfFirewalls({ pair: { syncStates: true } });
    expect(flowOf(told, fail("device:fwa")).sessions).toEqual({ state: "kept", reason: null });
  });
});
