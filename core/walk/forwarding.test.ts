import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { endOf, engineOf, planOf, tripOf, worldWith } from "../../tests/support/plans.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { elementCount, formatElement } from "../network/index.ts";
import type { Plan } from "../plan/index.ts";
import { pathReport } from "../reports/index.ts";
import { settle } from "../settle/index.ts";
import { gatewaysOf } from "./index.ts";

const host = (id: string, address: string, via: string, more: Record<string, unknown> = {}) => ({
  id,
  role: "host",
  interfaces: [{ name: "eth0", addresses: [address] }],
  routes: [{ to: address.includes(":") ? "::/0" : "0.0.0.0/0", via }],
  ...more,
});

/** a – r1 – r2 – b, the middle link of a chosen medium. */
function line(
  options: {
    medium?: string;
    r1?: Record<string, unknown>;
    r2?: Record<string, unknown>;
    routes1?: unknown[];
    routes2?: unknown[];
  } = {},
) {
  return planOf({
    devices: [
      host("a", "10.1.0.10/24", "10.1.0.1"),
      {
        id: "r1",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"], zone: "inside" },
          { name: "wan", addresses: ["192.0.2.1/30"], zone: "outside" },
        ],
        routes: options.routes1 ?? [{ to: "10.2.0.0/24", via: "192.0.2.2" }],
        ...options.r1,
      },
      {
        id: "r2",
        role: "router",
        interfaces: [
          { name: "wan", addresses: ["192.0.2.2/30"] },
          { name: "lan", addresses: ["10.2.0.1/24"] },
        ],
        routes: options.routes2 ?? [{ to: "10.1.0.0/24", via: "192.0.2.1" }],
        ...options.r2,
      },
      host("b", "10.2.0.10/24", "10.2.0.1"),
    ],
    links: [
      { id: "lan-a", medium: "switch", ends: ["a/eth0", "r1/lan"] },
      { id: "mid", medium: options.medium ?? "cable", ends: ["r1/wan", "r2/wan"] },
      { id: "lan-b", medium: "switch", ends: ["b/eth0", "r2/lan"] },
    ],
  });
}

function ended(plan: Plan, failed: string[] = [], to = "b", more: Parameters<typeof tripOf>[3] = {}) {
  const engine = engineOf(plan);
  const trip = tripOf(worldWith(engine, ...failed), "a", to, more);
  const end = endOf(trip);
  return {
    verdict: trip.verdict,
    end: end && `${engine.network.devices[Number(end.device)].id} ${end.code}`,
  };
}

describe("rule 6: the walk and the reply", () => {
  it("arrives and comes back", () => {
    expect(ended(line())).toEqual({ verdict: "works", end: null });
  });

  it.each<[string, Plan, string[], string, string, string | null]>([
    ["no route at all", line({ routes1: [] }), [], "b", "fails", "r1 no-route"],
    ["no route back: the far router lacks it", line({ routes2: [] }), [], "b", "one-way", "r2 no-route"],
    [
      "a discard",
      line({ routes1: [{ to: "10.2.0.0/24", discard: "drop" }] }),
      [],
      "b",
      "fails",
      "r1 discarded",
    ],
    [
      "a reject",
      line({ routes1: [{ to: "10.2.0.0/24", discard: "reject" }] }),
      [],
      "b",
      "fails",
      "r1 rejected",
    ],
    [
      "6.4: a next hop that nobody owns",
      line({
        medium: "switch",
        r1: {
          interfaces: [
            { name: "lan", addresses: ["10.1.0.1/24"] },
            { name: "wan", addresses: ["192.0.2.1/29"] },
          ],
        },
        routes1: [{ to: "10.2.0.0/24", via: "192.0.2.5" }],
      }),
      [],
      "b",
      "fails",
      "r1 neighbour-silent",
    ],
    [
      "nobody owns the address on its final subnet",
      line(),
      [],
      "10.2.0.77",
      "fails",
      "r2 host-not-listening",
    ],
    [
      "a router that does not forward",
      line({ r2: { forwarding: { ipv4: false } } }),
      [],
      "b",
      "fails",
      "r2 forwarding-off",
    ],
    [
      "two routes that point at each other",
      line({
        routes1: [{ to: "0.0.0.0/0", via: "192.0.2.2" }],
        routes2: [{ to: "0.0.0.0/0", via: "192.0.2.1" }],
      }),
      [],
      "203.0.113.1",
      "fails",
      "r2 looped",
    ],
    ["2.2: a cut cable is noticed at both ends", line(), ["link:mid"], "b", "fails", "r1 no-route"],
    ["2.2: and so is a dead device at its far end", line(), ["device:r2"], "b", "fails", "r1 no-route"],
    [
      "2.3: a dead device behind a switch is not",
      line({ medium: "switch" }),
      ["device:r2"],
      "b",
      "fails",
      "r1 neighbour-silent",
    ],
    ["2.3: but a dead switch is", line({ medium: "switch" }), ["link:mid"], "b", "fails", "r1 no-route"],
    [
      "2.4: a dead circuit is noticed by nobody",
      line({ medium: "circuit" }),
      ["link:mid"],
      "b",
      "fails",
      "r1 link-dead",
    ],
    [
      "2.4: nor is a dead end of it",
      line({ medium: "circuit" }),
      ["interface:r2/wan"],
      "b",
      "fails",
      "r1 neighbour-silent",
    ],
    ["the sender itself is down", line(), ["device:a"], "b", "fails", "a device-down"],
  ])("%s", (_what, plan, failed, to, verdict, end) => {
    expect(ended(plan, failed, to)).toEqual({ verdict, end });
  });

  it("6.1: a source must be the sender's own", () => {
    expect(ended(line(), [], "b", { source: "10.1.0.99" })).toEqual({
      verdict: "fails",
      end: "a source-not-own",
    });
  });

  it("6.1: testing from the router's exit works where the network behind it does not", () => {
    const engine = engineOf(line({ routes2: [] }));
    expect(tripOf(engine.healthy.world, "r1", "b").verdict).toBe("works");
    expect(tripOf(engine.healthy.world, "r1", "b", { source: "10.1.0.1" }).verdict).toBe("one-way");
  });

  it("6.2: a policy between zones denies new packets and lets replies of a flow that passed through", () => {
    const firewall = (rules: unknown[]) =>
      line({ r1: { role: "firewall", policy: { default: "deny", rules } } });
    const allow = { from: ["inside"], to: ["outside"], action: "allow", protocol: "tcp", port: "443" };
    expect(ended(firewall([])).end).toBe("r1 policy-denied");
    expect(ended(firewall([allow])).end).toBe("r1 policy-denied");
    expect(ended(firewall([allow]), [], "b", { protocol: "tcp", port: 443 }).verdict).toBe("works");
    expect(ended(firewall([allow]), [], "b", { protocol: "tcp", port: 80 }).end).toBe("r1 policy-denied");
  });

  it("6.5: every equal-cost branch is walked, and the worst decides", () => {
    const plan = planOf({
      devices: [
        host("a", "10.1.0.10/24", "10.1.0.1"),
        {
          id: "r1",
          role: "router",
          interfaces: [
            { name: "lan", addresses: ["10.1.0.1/24"] },
            { name: "x", addresses: ["192.0.2.1/30"] },
            { name: "y", addresses: ["192.0.2.5/30"] },
          ],
          routes: [
            { to: "10.2.0.0/24", via: "192.0.2.2" },
            { to: "10.2.0.0/24", via: "192.0.2.6" },
          ],
        },
        {
          id: "r2",
          role: "router",
          interfaces: [
            { name: "x", addresses: ["192.0.2.2/30"] },
            { name: "lan", addresses: ["10.2.0.1/24"] },
          ],
          routes: [{ to: "10.1.0.0/24", via: "192.0.2.1" }],
        },
        { id: "r3", role: "router", interfaces: [{ name: "y", addresses: ["192.0.2.6/30"] }] },
        host("b", "10.2.0.10/24", "10.2.0.1"),
      ],
      links: [
        { id: "la", medium: "switch", ends: ["a/eth0", "r1/lan"] },
        { id: "x", ends: ["r1/x", "r2/x"] },
        { id: "y", ends: ["r1/y", "r3/y"] },
        { id: "lb", medium: "switch", ends: ["b/eth0", "r2/lan"] },
      ],
    });
    const engine = engineOf(plan);
    const trip = tripOf(engine.healthy.world, "a", "b");
    const report = pathReport(engine.healthy.world, gatewaysOf(engine.healthy.world), trip);
    expect(report.verdict).toBe("fails");
    expect(report.paths?.map((path) => path.verdict).sort()).toEqual(["fails", "works"]);
    expect(report.outbound.drop).toMatchObject({ device: "r3", code: "no-route" });
    expect(report.outbound.paths).toHaveLength(2);
  });

  it("6.6: translation is undone for replies, and without it the private source gets no answer", () => {
    const through = (nat: unknown[]) =>
      planOf({
        devices: [
          host("a", "10.1.0.10/24", "10.1.0.1"),
          {
            id: "r1",
            role: "router",
            interfaces: [
              { name: "lan", addresses: ["10.1.0.1/24"] },
              { name: "wan", addresses: ["198.51.100.2/30"] },
            ],
            routes: [{ to: "0.0.0.0/0", via: "198.51.100.1" }],
            sourceNat: nat,
          },
          {
            id: "p",
            role: "provider",
            interfaces: [
              { name: "c", addresses: ["198.51.100.1/30"] },
              { name: "i", addresses: ["192.0.2.1/30"] },
            ],
            announces: ["198.51.100.0/24"],
          },
          { id: "world", role: "internet", interfaces: [{ name: "p", addresses: ["192.0.2.2/30"] }] },
        ],
        links: [
          { id: "la", medium: "switch", ends: ["a/eth0", "r1/lan"] },
          { id: "wan", ends: ["r1/wan", "p/c"] },
          { id: "up", ends: ["p/i", "world/p"] },
        ],
      });
    expect(
      ended(through([{ out: "wan", from: ["10.1.0.0/24"], to: "interface" }]), [], "203.0.113.9").verdict,
    ).toBe("works");
    expect(ended(through([]), [], "203.0.113.9")).toEqual({
      verdict: "one-way",
      end: "world private-at-internet",
    });
    expect(
      ended(through([{ out: "wan", from: ["10.9.0.0/24"], to: "interface" }]), [], "203.0.113.9").verdict,
    ).toBe("one-way");
    expect(ended(through([]), [], "10.77.0.1")).toEqual({
      verdict: "fails",
      end: "world private-at-internet",
    });
    // Rule 7.4: an announced prefix is not answered by the internet while its provider's link is down.
    const cut = through([{ out: "wan", to: "interface" }]);
    expect(ended(cut, ["link:up"], "203.0.113.9").end).toBe("p no-route");
  });

  it("5.4: a route to another VRF is looked up again there", () => {
    const plan = line({
      r1: {
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"] },
          { name: "wan", addresses: ["192.0.2.1/30"], vrf: "shared" },
        ],
        routes: [
          { to: "10.2.0.0/24", toVrf: "shared" },
          { to: "10.2.0.0/24", via: "192.0.2.2", vrf: "shared" },
          { to: "10.1.0.0/24", toVrf: "main", vrf: "shared" },
        ],
      },
    });
    const engine = engineOf(plan);
    const trip = tripOf(engine.healthy.world, "a", "b");
    expect(trip.verdict).toBe("works");
    expect(trip.worst.outbound.hops.map((hop) => engine.network.devices[hop.device].id)).toEqual([
      "a",
      "r1",
      "r1",
      "r2",
      "b",
    ]);
  });
});

describe("on random plans, whatever fails", () => {
  it("every walk ends, with hops that follow each other and a verdict that fits", () => {
    fc.assert(
      fc.property(fc.nat(100_000), fc.nat(1000), (seed, pick) => {
        const plan = randomPlan(seed, { mistakes: true, family: seed % 3 ? 4 : 6 });
        const engine = engineOf(plan);
        const element = pick % elementCount(engine.network);
        const { world } = settle(engine, [element]);
        expect(formatElement(engine.network, element)).toMatch(/^(link|device|interface):/);
        for (const flow of plan.flows) {
          const trip = tripOf(world, flow.from, flow.to);
          for (const { outbound, reply, verdict } of trip.branches) {
            expect(outbound.hops.length).toBeLessThanOrEqual(65);
            for (const walk of reply ? [outbound, reply] : [outbound]) {
              for (const [i, hop] of walk.hops.entries()) {
                if (i + 1 < walk.hops.length) expect(hop.to).toBe(walk.hops[i + 1].device);
                else expect(hop.to).toBe(-1);
              }
              expect(walk.drop === null).toBe(walk.result === "delivered");
            }
            expect(verdict === "fails").toBe(outbound.result !== "delivered");
            expect(verdict === "works").toBe(reply?.result === "delivered");
          }
        }
      }),
      { numRuns: 120 },
    );
  });
});
