import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { engineOf, matchesOf, planOf, routesOf, worldWith } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import type { Plan } from "../plan/index.ts";
import type { RouteReport } from "../reports/index.ts";

/** A router with two cables to neighbors and routes of its own. plain-ok */
function lab(routes: unknown[], more: Record<string, unknown> = {}) {
  const plan = planOf({
    devices: [
      {
        id: "r1",
        role: "router",
        interfaces: [
          { name: "e1", addresses: ["192.0.2.1/30", "2001:db8:1::1/64"] },
          { name: "e2", addresses: ["198.51.100.1/29"] },
          { name: "lo", kind: "loopback", addresses: ["10.255.0.1/32"] },
        ],
        routes,
        ...more,
      },
      { id: "r2", role: "router", interfaces: [{ name: "e1", addresses: ["192.0.2.2/30"] }] },
      { id: "r3", role: "router", interfaces: [{ name: "e1", addresses: ["198.51.100.2/29"] }] },
    ],
    links: [
      { id: "a", ends: ["r1/e1", "r2/e1"] },
      { id: "b", ends: ["r1/e2", "r3/e1"] },
    ],
  });
  return engineOf(plan);
}

function find(routes: RouteReport[], to: string, via?: string): RouteReport {
  const found = routes.find(
    (r) => r.to === to && (via === undefined || r.via === via) && r.source !== "local",
  );
  if (!found) throw new Error(`no route ${to}`);
  return found;
}

const told = (route: RouteReport) => [route.state, route.reason?.code ?? null];

describe("rule 3.1: connected and local routes", () => {
  it("stand for every address of an up interface", () => {
    const routes = routesOf(lab([]).healthy.world, "r1");
    const seen = routes.map((r) => `${r.to} ${r.source} ${r.state}`);
    expect(seen).toContain("192.0.2.0/30 connected in-use");
    expect(seen).toContain("192.0.2.1/32 local in-use");
    expect(seen).toContain("2001:db8:1::/64 connected in-use");
    expect(seen).toContain("10.255.0.1/32 connected in-use");
  });

  it("are unusable, with the reason, while the interface is down", () => {
    const routes = routesOf(worldWith(lab([]), "link:a"), "r1");
    expect(told(find(routes, "192.0.2.0/30"))).toEqual(["unusable", "interface-down"]);
    expect(find(routes, "192.0.2.0/30").reason?.text).toMatch(/e1 has no carrier: the link a has failed/);
  });
});

describe("rule 4: next hops", () => {
  const state = (route: Record<string, unknown>, more: Record<string, unknown> = {}, ...failed: string[]) => {
    const engine = lab([route], more);
    return told(
      find(routesOf(worldWith(engine, ...failed), "r1"), String(route.to), route.via as string | undefined),
    );
  };

  it.each<[string, Record<string, unknown>, [string, string | null]]>([
    [
      "via with out, on the interface's subnet",
      { to: "10.0.0.0/8", via: "192.0.2.2", out: "e1" },
      ["in-use", null],
    ],
    [
      "via with out, on another subnet",
      { to: "10.0.0.0/8", via: "198.51.100.2", out: "e1" },
      ["unusable", "next-hop-not-on-interface"],
    ],
    [
      "the same, taken as on the link",
      { to: "10.0.0.0/8", via: "203.0.113.9", out: "e1", onLink: true },
      ["in-use", null],
    ],
    ["via alone on a connected subnet", { to: "10.0.0.0/8", via: "192.0.2.2" }, ["in-use", null]],
    [
      "via alone that nothing leads to",
      { to: "10.0.0.0/8", via: "203.0.113.9" },
      ["unusable", "next-hop-unresolved"],
    ],
    [
      "via alone within its own destination",
      { to: "203.0.113.0/24", via: "203.0.113.9" },
      ["unusable", "next-hop-circular"],
    ],
    ["the interface address", { to: "10.0.0.0/8", via: "192.0.2.1" }, ["unusable", "next-hop-own-address"]],
    [
      "the subnet's network address",
      { to: "10.0.0.0/8", via: "192.0.2.0" },
      ["unusable", "next-hop-network-address"],
    ],
    [
      "the subnet's broadcast address",
      { to: "10.0.0.0/8", via: "192.0.2.3" },
      ["unusable", "next-hop-broadcast-address"],
    ],
    [
      "link-local without an interface",
      { to: "::/0", via: "fe80::2" },
      ["unusable", "link-local-without-interface"],
    ],
    ["link-local with an interface", { to: "::/0", via: "fe80::2", out: "e1" }, ["in-use", null]],
    ["a silent neighbour", { to: "10.0.0.0/8", via: "198.51.100.6" }, ["in-use", null]],
    ["an interface alone", { to: "10.0.0.0/8", out: "e1" }, ["in-use", null]],
    ["a discard", { to: "10.0.0.0/8", discard: "drop" }, ["in-use", null]],
    ["a disabled route", { to: "10.0.0.0/8", via: "192.0.2.2", enabled: false }, ["disabled", "disabled"]],
  ])("%s", (_what, route, wanted) => {
    expect(state(route)).toEqual(wanted);
  });

  it("4.2: an interface alone is refused where the profile refuses it", () => {
    expect(state({ to: "10.0.0.0/8", out: "e1" }, { profile: "preference-router" })).toEqual([
      "unusable",
      "interface-next-hop-refused",
    ]);
    expect(state({ to: "10.0.0.0/8", via: "192.0.2.2" }, { profile: "interface-firewall" })).toEqual([
      "unusable",
      "interface-required",
    ]);
  });

  it("4.3: another route carries a next hop on where resolve allows it", () => {
    const through = { to: "172.16.0.0/16", via: "192.0.2.2" };
    const over = { to: "10.0.0.0/8", via: "172.16.0.9" };
    const fate = (profile: string, routes: unknown[]) =>
      told(find(routesOf(lab(routes, { profile }).healthy.world, "r1"), "10.0.0.0/8"));
    expect(fate("classic-router", [over, through])).toEqual(["in-use", null]);
    expect(fate("metric-router", [over, through])).toEqual(["unusable", "next-hop-unresolved"]);
    expect(fate("metric-router", [{ ...over, resolve: "any" }, through])).toEqual(["in-use", null]);
    const byDefault = { to: "0.0.0.0/0", via: "192.0.2.2" };
    expect(fate("classic-router", [over, byDefault])).toEqual(["unusable", "next-hop-unresolved"]);
    expect(fate("preference-router", [over, byDefault])).toEqual(["in-use", null]);
  });

  it("4.3: two routes that rest on each other are both unusable, in whatever order they stand", () => {
    const a = { to: "10.1.0.0/16", via: "10.2.0.1" };
    const b = { to: "10.2.0.0/16", via: "10.1.0.1" };
    for (const routes of [
      [a, b],
      [b, a],
    ]) {
      const table = routesOf(lab(routes, { profile: "preference-router" }).healthy.world, "r1");
      expect(told(find(table, "10.1.0.0/16"))).toEqual(["unusable", "next-hop-circular"]);
      expect(told(find(table, "10.2.0.0/16"))).toEqual(["unusable", "next-hop-circular"]);
    }
  });

  it("4.3: a chain of sixteen routes is followed, one of seventeen is not", () => {
    const chain = (n: number) =>
      Array.from({ length: n }, (_, i) => ({
        to: `10.${i}.0.0/16`,
        via: i === 0 ? "192.0.2.2" : `10.${i - 1}.0.1`,
      }));
    const table = routesOf(lab(chain(18)).healthy.world, "r1");
    expect(told(find(table, "10.15.0.0/16"))).toEqual(["in-use", null]);
    expect(told(find(table, "10.16.0.0/16"))).toEqual(["unusable", "next-hop-chain-too-deep"]);
  });

  it("4.8: routes of a family whose forwarding is off are kept but unusable", () => {
    const off = { forwarding: { ipv6: false } };
    expect(state({ to: "::/0", via: "2001:db8:1::2" }, off)).toEqual(["unusable", "forwarding-off"]);
    expect(state({ to: "10.0.0.0/8", via: "192.0.2.2" }, off)).toEqual(["in-use", null]);
  });

  it("a next hop behind a failed interface is told by that interface", () => {
    const table = routesOf(worldWith(lab([{ to: "10.0.0.0/8", via: "192.0.2.2" }]), "interface:r1/e1"), "r1");
    expect(find(table, "10.0.0.0/8").state).toBe("unusable");
    expect(find(table, "10.0.0.0/8").reason?.text).toBe("e1 is down: it has failed");
  });
});

describe("rule 5: selection", () => {
  const two = (
    first: Record<string, unknown>,
    second: Record<string, unknown>,
    more: Record<string, unknown> = {},
  ) =>
    lab(
      [
        { to: "10.0.0.0/8", via: "192.0.2.2", ...first },
        { to: "10.0.0.0/8", via: "198.51.100.2", ...second },
      ],
      more,
    );
  const fates = (engine: ReturnType<typeof lab>, ...failed: string[]) => {
    const table = routesOf(worldWith(engine, ...failed), "r1");
    return [told(find(table, "10.0.0.0/8", "192.0.2.2")), told(find(table, "10.0.0.0/8", "198.51.100.2"))];
  };

  it("takes the lowest distance, and the floating route when the primary goes", () => {
    const engine = two({}, { distance: 20 });
    expect(fates(engine)).toEqual([
      ["in-use", null],
      ["standby", "beaten-on-distance"],
    ]);
    expect(fates(engine, "link:a")).toEqual([
      ["unusable", "next-hop-unresolved"],
      ["in-use", null],
    ]);
  });

  it("takes the lowest metric among equals of one source", () => {
    expect(fates(two({ metric: 5 }, {}))).toEqual([
      ["standby", "beaten-on-metric"],
      ["in-use", null],
    ]);
  });

  it("shares the load among equals up to the profile's limit", () => {
    expect(fates(two({}, {}))).toEqual([
      ["in-use", null],
      ["in-use", null],
    ]);
    expect(fates(two({ out: "e1" }, { out: "e2" }, { profile: "interface-firewall" }))[1]).toEqual([
      "standby",
      "equal-cost-other-interface",
    ]);
  });

  it("knows metrics alone where the profile knows no distance", () => {
    const engine = two(
      { metric: 10, distance: 1 },
      { metric: 5, distance: 200 },
      { profile: "metric-router" },
    );
    expect(fates(engine)).toEqual([
      ["standby", "beaten-on-metric"],
      ["in-use", null],
    ]);
    expect(find(routesOf(engine.healthy.world, "r1"), "10.0.0.0/8").distance).toBeNull();
  });

  it("gives static routes the profile's own distance", () => {
    for (const [profile, distance] of [
      ["classic-router", 1],
      ["preference-router", 5],
      ["zone-firewall", 10],
    ] as const) {
      const table = routesOf(lab([{ to: "10.0.0.0/8", via: "192.0.2.2" }], { profile }).healthy.world, "r1");
      expect(find(table, "10.0.0.0/8").distance).toBe(distance);
    }
  });

  it("refuses a second default of one distance on another interface where the profile does", () => {
    const defaults = (second: Record<string, unknown>) =>
      lab(
        [
          { to: "0.0.0.0/0", via: "192.0.2.2", out: "e1" },
          { to: "0.0.0.0/0", via: "198.51.100.2", out: "e2", ...second },
        ],
        { profile: "interface-firewall" },
      );
    const refused = routesOf(worldWith(defaults({}), "link:a"), "r1");
    expect(told(find(refused, "0.0.0.0/0", "198.51.100.2"))).toEqual(["unusable", "second-default-refused"]);
    const floating = routesOf(worldWith(defaults({ distance: 9 }), "link:a"), "r1");
    expect(told(find(floating, "0.0.0.0/0", "198.51.100.2"))).toEqual(["in-use", null]);
  });

  it("lists matches longest first", () => {
    const engine = lab([
      { to: "10.0.0.0/8", via: "192.0.2.2" },
      { to: "10.1.0.0/16", via: "198.51.100.2" },
      { to: "0.0.0.0/0", via: "192.0.2.2" },
    ]);
    expect(matchesOf(engine.healthy.world, "r1", "10.1.2.3").map((m) => m.to)).toEqual([
      "10.1.0.0/16",
      "10.0.0.0/8",
      "0.0.0.0/0",
    ]);
  });
});

describe("whatever order devices, links and routes stand in", () => {
  const shuffle = (plan: Plan, random: Random): Plan => ({
    ...plan,
    devices: random.shuffled(plan.devices).map((device) => ({
      ...device,
      interfaces: random.shuffled(device.interfaces),
      routes: random.shuffled(device.routes),
    })),
    links: random.shuffled(plan.links),
  });

  it("every candidate ends in the same state, unless equal cost left it to the order", () => {
    fc.assert(
      fc.property(fc.nat(100_000), (seed) => {
        const plan = randomPlan(seed, { mistakes: true, family: seed % 2 ? 4 : 6 });
        const other = shuffle(plan, new Random(seed + 1));
        const [a, b] = [engineOf(plan), engineOf(other)];
        for (const failed of [[], [`link:${plan.links[0].id}`]]) {
          const [wa, wb] = [worldWith(a, ...failed), worldWith(b, ...failed)];
          for (const device of plan.devices) {
            const key = (r: RouteReport) =>
              [r.to, r.source, r.via, r.out, r.distance, r.metric, r.state, r.reason?.code].join(" ");
            const ordered = (r: RouteReport) =>
              r.reason?.code === "equal-cost-limit" || r.reason?.code === "equal-cost-other-interface";
            const [ra, rb] = [routesOf(wa, device.id), routesOf(wb, device.id)];
            if (ra.some(ordered)) continue;
            expect(rb.map(key).sort()).toEqual(ra.map(key).sort());
          }
        }
      }),
      { numRuns: 120 },
    );
  });
});

describe("rule 5.1: the greatest distance", () => {
  it.each([
    ["classic-router", "unusable"],
    ["zone-firewall", "unusable"],
    ["preference-router", "in-use"],
  ])("of a %s: a route with distance 255 is %s, written or learned", (profile, state) => {
    const { world } = engineOf(
      planOf({
        devices: [
          {
            id: "r",
            role: "router",
            profile,
            interfaces: [{ name: "a", addresses: ["10.0.0.1/24"] }],
            routes: [{ to: "10.1.0.0/16", via: "10.0.0.2", distance: 255 }],
            learned: [{ to: "10.2.0.0/16", via: "10.0.0.2", out: "a", protocol: "rip", distance: 255 }],
          },
          { id: "n", role: "router", interfaces: [{ name: "a", addresses: ["10.0.0.2/24"] }] },
        ],
        links: [{ id: "l", ends: ["r/a", "n/a"] }],
      }),
    ).healthy;
    const found = routesOf(world, "r").filter(({ distance }) => distance === 255);
    expect(found.map((route) => route.state)).toEqual([state, state]);
    if (state === "unusable")
      expect(found[0].reason).toMatchObject({
        code: "distance-too-great",
        text: expect.stringContaining("254"),
      });
  });
});
