import { describe, expect, it } from "vitest";
import { engineOf, planOf, tripOf } from "../../tests/support/plans.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { gatewaysOf } from "../walk/index.ts";
import { explainTrip } from "./index.ts";

/** A desk behind a router with two cables to the next one, a server behind that; each router by the routes given. */
function twoCables(there: readonly string[], back: readonly string[], more: Record<string, unknown> = {}) {
  return planOf({
    devices: [
      {
        id: "desk",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
      },
      {
        id: "a",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"] },
          { name: "s0", addresses: ["10.9.0.1/30"] },
          { name: "s1", addresses: ["10.9.1.1/30"] },
        ],
        routes: there.map((via) => ({ to: "10.2.0.0/24", via })),
        ...more,
      },
      {
        id: "b",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.2.0.1/24"] },
          { name: "s0", addresses: ["10.9.0.2/30"] },
          { name: "s1", addresses: ["10.9.1.2/30"] },
        ],
        routes: back.map((via) => ({ to: "10.1.0.0/24", via })),
      },
      {
        id: "server",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.2.0.10/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.2.0.1" }],
      },
    ],
    links: [
      { id: "l", ends: ["desk/e", "a/lan"] },
      { id: "first", label: "First cable", ends: ["a/s0", "b/s0"] },
      { id: "second", label: "Second cable", ends: ["a/s1", "b/s1"] },
      { id: "r", ends: ["b/lan", "server/e"] },
    ],
    gateways: [
      { id: "s0", label: "First", at: "a/s0" },
      { id: "s1", label: "Second", at: "a/s1" },
    ],
  });
}

describe("weights", () => {
  it("part the load of equal routes, and branches inside one next hop divide its share", () => {
    const plan = twoCables(["10.9.0.2", "10.9.1.2"], ["10.9.0.1"], {
      routes: [
        { to: "10.2.0.0/24", via: "10.9.0.2", weight: 3 },
        { to: "10.2.0.0/24", via: "10.9.1.2" },
      ],
    });
    const { world } = engineOf(plan).healthy;
    const { branches } = tripOf(world, "desk", "10.2.0.10");
    expect(branches.map(({ outbound }) => outbound.share)).toEqual([0.75, 0.25]);
    expect(explained(plan).sentences).toContain(
      "The load is shared over 2 paths (75 % and 25 %); the worst one is shown.",
    );
    const nested = twoCables([], ["10.9.0.1"], {
      profile: "preference-router",
      routes: [
        { to: "10.2.0.0/24", via: "10.8.0.1", weight: 3 },
        { to: "10.2.0.0/24", via: "10.9.1.2" },
        { to: "10.8.0.0/24", via: "10.9.0.2" },
        { to: "10.8.0.0/24", via: "10.9.1.2" },
      ],
    });
    const shares = tripOf(engineOf(nested).healthy.world, "desk", "10.2.0.10").branches.map(
      ({ outbound }) => outbound.share,
    );
    expect(shares).toEqual([0.375, 0.375, 0.25]);
  });

  it("come to one over all ways of random plans with equal routes", () => {
    let shared = 0;
    for (let seed = 1; seed <= 60; seed++) {
      const plan = randomPlan(seed, { mistakes: true });
      const { world } = engineOf(plan).healthy;
      for (const { from, to } of plan.flows) {
        const walks = [...new Set(tripOf(world, from, to).branches.map(({ outbound }) => outbound))];
        if (walks.length > 1) shared++;
        expect(walks.reduce((sum, { share }) => sum + share, 0)).toBeCloseTo(1, 9);
      }
    }
    expect(shared).toBeGreaterThan(3);
  });
});

function explained(plan: ReturnType<typeof planOf>, from = "desk") {
  const { world } = engineOf(plan).healthy;
  const now = { world, trip: tripOf(world, from, "10.2.0.10") };
  return explainTrip(gatewaysOf(world), now, now);
}

describe("what is said of a flow", () => {
  it("names gateways that share its load as such, and not one after the other", () => {
    expect(explained(twoCables(["10.9.0.2", "10.9.1.2"], ["10.9.0.1", "10.9.1.1"])).headline).toBe(
      "Shared by First and Second",
    );
    expect(explained(twoCables(["10.9.0.2"], ["10.9.0.1"])).headline).toBe("Carried by First");
  });

  it("names the links that differ between the forward and the return path", () => {
    expect(explained(twoCables(["10.9.0.2"], ["10.9.1.1"])).sentences).toEqual([
      "Forward and return path use different links: forward First cable; return Second cable.",
    ]);
  });

  it("names the VRF in which no route was found, where there are several", () => {
    const blue = { routes: [{ to: "10.2.0.0/24", via: "10.9.0.2", vrf: "blue" }] };
    expect(explained(twoCables([], ["10.9.0.1"], blue)).sentences[0]).toContain(
      "a has no route to 10.2.0.10 in VRF main",
    );
    expect(explained(twoCables([], ["10.9.0.1"])).sentences[0]).toBe("a has no route to 10.2.0.10.");
  });
});
