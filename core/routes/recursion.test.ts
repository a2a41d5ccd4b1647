import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { timed } from "../../tests/support/cpu.ts";
import { engineOf, planOf, routesOf, tripOf } from "../../tests/support/plans.ts";
import { chainOf, nextHopsOf, stateCodes } from "./index.ts";

const interfaces = [
  { name: "spare", addresses: ["10.1.0.1/24"] },
  { name: "other", addresses: ["10.2.0.1/24"] },
];

function router(routes: unknown[], profile = "preference-router") {
  return engineOf(
    planOf({
      profiles: [{ id: "any", base: profile, resolve: "any", interfaceNextHop: "allow" }],
      devices: [
        { id: "r", role: "router", profile: "any", interfaces, routes },
        { id: "s", role: "router", interfaces: [{ name: "e", addresses: ["10.1.0.2/24"] }] },
        { id: "t", role: "router", interfaces: [{ name: "e", addresses: ["10.2.0.2/24"] }] },
      ],
      links: [
        { id: "a", ends: ["r/spare", "s/e"] },
        { id: "b", ends: ["r/other", "t/e"] },
      ],
    }),
  );
}

describe("rule 4.3: chains that meet themselves", () => {
  it.each([
    ["equal", {}, "unusable"],
    ["preferred", { distance: 1 }, "unusable"],
    ["less preferred", { distance: 200 }, "standby"],
  ])("a next hop inside its own prefix, %s to the interface route there", (_what, more, state) => {
    const engine = router([
      { to: "10.3.0.0/16", out: "spare", distance: 50 },
      { to: "10.3.0.0/16", via: "10.3.8.1", distance: 50, ...more },
    ]);
    const [direct, via] = routesOf(engine.healthy.world, "r")
      .filter((route) => route.to === "10.3.0.0/16")
      .sort((a, b) => Number(a.via !== null) - Number(b.via !== null));
    expect(direct.state).toBe("in-use");
    expect(via.state).toBe(state);
    if (state === "unusable") expect(via.reason?.code).toBe("next-hop-circular");
    expect(tripOf(engine.healthy.world, "r", "10.3.8.7").verdict).toBe("fails");
  });

  it("two routes that would lead to each other once in use are both unusable", () => {
    const routes = routesOf(
      router([
        { to: "10.3.0.0/16", via: "10.4.0.1", distance: 5 },
        { to: "10.3.0.0/16", out: "spare", distance: 50 },
        { to: "10.4.0.0/16", via: "10.3.0.1", distance: 5 },
        { to: "10.4.0.0/16", out: "other", distance: 50 },
      ]).healthy.world,
      "r",
    ).filter((route) => route.source === "static");
    expect(routes.map((route) => [route.to, route.state, route.reason?.code ?? ""])).toEqual([
      ["10.3.0.0/16", "in-use", ""],
      ["10.3.0.0/16", "unusable", "next-hop-circular"],
      ["10.4.0.0/16", "in-use", ""],
      ["10.4.0.0/16", "unusable", "next-hop-circular"],
    ]);
  });

  it("settles thousands of chained next hops in time", () => {
    const count = 6000;
    const address = (i: number) => `10.${64 + (i >> 8)}.${i & 255}`;
    const routes = Array.from({ length: count }, (_, i) => ({
      to: `${address(i)}.0/24`,
      via: i === 0 ? "10.1.0.2" : `${address(i - 1)}.1`,
    }));
    const { result: table, ms } = timed(() =>
      routesOf(router(routes.reverse()).healthy.world, "r").filter((r) => r.source === "static"),
    );
    expect(table.filter((route) => route.state === "in-use")).toHaveLength(16);
    expect(ms).toBeLessThan(5000);
  });

  it("every table over random next hops is whole: what is in use leads out, and never through itself", () => {
    const block = fc.integer({ min: 3, max: 6 });
    const route = fc.record({
      block,
      length: fc.constantFrom(8, 14, 16, 24),
      distance: fc.integer({ min: 1, max: 4 }),
      metric: fc.integer({ min: 0, max: 1 }),
      via: fc.option(fc.tuple(fc.constantFrom(1, 2, 3, 4, 5, 6), fc.integer({ min: 1, max: 3 })), {
        nil: null,
      }),
      out: fc.constantFrom("spare", "other"),
    });
    fc.assert(
      fc.property(
        fc.array(route, { maxLength: 14 }),
        fc.constantFrom("preference-router", "metric-router"),
        (list, base) => {
          const seen = new Set<string>();
          const routes = list.flatMap(({ block: b, length, via, out, distance, metric }) => {
            const to = length === 8 ? "10.0.0.0/8" : length === 14 ? "10.4.0.0/14" : `10.${b}.0.0/${length}`;
            const hop = via ? { via: `10.${via[0]}.0.${via[1]}` } : { out };
            const key = JSON.stringify([to, hop]);
            if (seen.has(key)) return [];
            seen.add(key);
            return [{ to, ...hop, distance, metric }];
          });
          const { network, healthy } = router(routes, base);
          const tables = healthy.world.tablesOf(0);
          for (let c = network.devices[0].firstCandidate; c < network.devices[0].endCandidate; c++) {
            const state = tables.state[c];
            if (state === stateCodes["in-use"]) {
              expect(nextHopsOf(network, tables, c).length).toBeGreaterThan(0);
              expect(chainOf(network, tables, c)).not.toContain(c);
            }
            expect(chainOf(network, tables, c).length).toBeLessThanOrEqual(20);
          }
          expect(["works", "one-way", "fails"]).toContain(tripOf(healthy.world, "r", "10.5.0.9").verdict);
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe("rule 5.1: one order of preference", () => {
  it("without distances the lower metric stands first among those that stand by, and takes over", () => {
    const engine = router(
      [
        { to: "10.9.0.0/16", via: "10.1.0.2", metric: 30 },
        { to: "10.9.0.0/16", via: "10.2.0.2", metric: 20 },
        { to: "10.9.0.0/16", out: "other", metric: 10 },
      ],
      "metric-router",
    );
    const metrics = routesOf(engine.healthy.world, "r")
      .filter((route) => route.to === "10.9.0.0/16")
      .map((route) => route.metric);
    expect(metrics).toEqual([10, 20, 30]);
  });
});
