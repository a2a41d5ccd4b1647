import { describe, expect, it } from "vitest";
import { endOf, engineOf, planOf, routesOf, tripOf } from "../../tests/support/plans.ts";
import { findAll } from "../findings/index.ts";
import { NetworkModel } from "../scenario/index.ts";

const provider = {
  id: "p",
  role: "provider",
  interfaces: [{ name: "e", addresses: ["192.0.2.1/24"] }],
};

function edge(routes: unknown[], port: Record<string, unknown> = { gatewayFrom: "dhcp" }) {
  return {
    devices: [
      {
        id: "r",
        role: "router",
        interfaces: [{ name: "wan", addresses: ["192.0.2.9/24"], ...port }],
        routes,
      },
      provider,
    ],
    links: [{ id: "l", medium: "circuit", ends: ["r/wan", "p/e"] }],
  };
}

describe("rule 4.9: a route by the gateway that is handed out", () => {
  it("takes it as its next hop, whatever it is", () => {
    const { world } = engineOf(planOf(edge([{ to: "10.0.0.0/8", viaFrom: "wan" }]))).healthy;
    const route = routesOf(world, "r").find((r) => r.to === "10.0.0.0/8");
    expect(route).toMatchObject({ state: "in-use", via: "192.0.2.1", out: "wan" });
  });

  it("is unusable where nothing hands one out, and refused where none could be", () => {
    const alone = planOf({ ...edge([{ to: "10.0.0.0/8", viaFrom: "wan" }]), links: [] });
    expect(routesOf(engineOf(alone).healthy.world, "r").find((r) => r.to === "10.0.0.0/8")?.state).toBe(
      "unusable",
    );
    expect(() => planOf(edge([{ to: "10.0.0.0/8", viaFrom: "wan" }], {}))).toThrow(
      /no gateway is assigned on wan/,
    );
    expect(() => planOf(edge([{ to: "10.0.0.0/8", viaFrom: "wan", via: "192.0.2.1" }]))).toThrow(
      /one of them/,
    );
    expect(() => planOf(edge([{ to: "10.0.0.0/8", viaFrom: "lan" }]))).toThrow(/no interface lan/);
  });

  it("is the fix of a next hop that may go stale", () => {
    const plan = planOf(edge([{ to: "10.0.0.0/8", via: "192.0.2.1" }]));
    const finding = findAll(NetworkModel.compile(plan)).find((f) => f.code === "stale-gateway");
    expect(finding?.fixes.map((fix) => fix.label)).toEqual([
      "Make 10.0.0.0/8 via 192.0.2.1 of r follow the gateway assigned on wan",
    ]);
  });
});

describe("rule 6.2: an order of trust", () => {
  const policy = (more: Record<string, unknown>) =>
    engineOf(
      planOf({
        devices: [
          {
            id: "fw",
            role: "firewall",
            interfaces: [
              { name: "a", zone: "inside", addresses: ["10.1.0.1/24"] },
              { name: "b", zone: "dmz", addresses: ["10.2.0.1/24"] },
            ],
            policy: { default: "deny", trust: ["inside", "dmz", "outside"], ...more },
          },
          ...[1, 2].map((n) => ({
            id: `h${n}`,
            role: "host",
            interfaces: [{ name: "e", addresses: [`10.${n}.0.10/24`] }],
            routes: [{ to: "0.0.0.0/0", via: `10.${n}.0.1` }],
          })),
        ],
        links: [
          { id: "la", ends: ["fw/a", "h1/e"] },
          { id: "lb", ends: ["fw/b", "h2/e"] },
        ],
      }),
    ).healthy.world;

  it("lets new flows from more to less trusted zones, and no others", () => {
    expect(tripOf(policy({}), "h1", "h2").verdict).toBe("works");
    expect(endOf(tripOf(policy({}), "h2", "h1"))?.code).toBe("policy-denied");
  });

  it("stands behind the rules, and before the default", () => {
    const rules = [{ from: ["inside"], to: ["dmz"], action: "deny" }];
    expect(endOf(tripOf(policy({ rules }), "h1", "h2"))?.code).toBe("policy-denied");
    expect(tripOf(policy({ trust: undefined, default: "allow" }), "h2", "h1").verdict).toBe("works");
  });
});
