import { describe, expect, it } from "vitest";
import { endOf, engineOf, planOf, routesOf, tripOf, worldWith } from "../../tests/support/plans.ts";
import type { World } from "../walk/index.ts";

/** r1 and r2 with a tunnel between them over a provider's two cables, and something to reach at each end. */
function tunnel(
  one: Record<string, unknown> = {},
  two: Record<string, unknown> = {},
  routes: unknown[] = [],
) {
  const end = (n: number, more: Record<string, unknown>, extra: unknown[]) => ({
    id: `r${n}`,
    role: "router",
    interfaces: [
      { name: "wan", addresses: [`192.0.2.${n === 1 ? 1 : 5}/30`] },
      { name: "outer", kind: "loopback", addresses: [`198.51.100.${n}/32`] },
      {
        name: "tun",
        kind: "tunnel",
        addresses: [`10.9.0.${n}/30`],
        underlay: { to: `198.51.100.${3 - n}`, ...more },
      },
      { name: "lan", kind: "loopback", addresses: [`10.${n}.0.1/24`] },
    ],
    routes: [
      { to: "198.51.100.0/24", via: `192.0.2.${n === 1 ? 2 : 6}` },
      { to: `10.${3 - n}.0.0/24`, via: `10.9.0.${3 - n}` },
      ...extra,
    ],
  });
  return planOf({
    devices: [
      end(1, one, routes),
      end(2, two, []),
      {
        id: "core",
        role: "router",
        interfaces: [
          { name: "a", addresses: ["192.0.2.2/30"] },
          { name: "b", addresses: ["192.0.2.6/30"] },
        ],
        routes: [
          { to: "198.51.100.1/32", via: "192.0.2.1" },
          { to: "198.51.100.2/32", via: "192.0.2.5" },
        ],
      },
    ],
    links: [
      { id: "a", ends: ["r1/wan", "core/a"] },
      { id: "b", ends: ["r2/wan", "core/b"] },
    ],
  });
}
const quiet = { keepaliveMs: 0 };

describe("rule 2.5: tunnels", () => {
  it("leave from the address that the far end names, or from `underlay.from`", () => {
    const [t] = engineOf(tunnel()).network.tunnels;
    expect(t.from?.w0).toBe(0xc6336401);
    expect(engineOf(tunnel({ from: "192.0.2.1" })).network.tunnels[0].from?.w0).toBe(0xc0000201);
    expect(tripOf(engineOf(tunnel()).healthy.world, "r1", "10.2.0.1").verdict).toBe("works");
  });

  it("send nothing where that address is gone, and both ends with keepalives go down", () => {
    const down = worldWith(engineOf(tunnel()), "interface:r1/outer");
    const up = (id: string) => down.state.interfaceUp[down.state.network.interfaceIndex.get(id) as number];
    expect([up("r1/tun"), up("r2/tun")]).toEqual([0, 0]);
    expect(tripOf(down, "r1", "10.2.0.1").verdict).toBe("fails");
  });

  it("without keepalives stay up, and only the direction whose underlay fails dies", () => {
    const engine = engineOf(tunnel(quiet, quiet));
    // Packets from core to r2's outer address end at r2, which no longer owns it; the other way is untouched.
    const plan = tunnel(quiet, quiet);
    const oneWay = engineOf({
      ...plan,
      devices: plan.devices.map((device) =>
        device.id === "core"
          ? { ...device, routes: device.routes.filter((route) => route.to !== "198.51.100.2/32") }
          : device,
      ),
    });
    expect(tripOf(engine.healthy.world, "r1", "10.2.0.1").verdict).toBe("works");
    const { world } = oneWay.healthy;
    expect(endOf(tripOf(world, "r1", "10.2.0.1"))?.code).toBe("link-dead");
    const back = tripOf(world, "r2", "10.1.0.1");
    expect(back.verdict).toBe("one-way");
    expect(back.worst.outbound.result).toBe("delivered");
  });

  const intoItself = [{ to: "198.51.100.2/32", out: "tun" }];
  const upIn = ({ state }: World, id: string) =>
    state.interfaceUp[state.network.interfaceIndex.get(id) as number];

  it("led into itself is down at that end alone; the far end with keepalives goes down for the lost answers", () => {
    for (const [more, far] of [
      [quiet, 1],
      [{}, 0],
    ] as const) {
      const { world, selfTunnels } = engineOf(tunnel(more, more, intoItself)).healthy;
      expect(selfTunnels.size).toBe(1);
      expect([upIn(world, "r1/tun"), upIn(world, "r2/tun")]).toEqual([0, far]);
      const route = routesOf(world, "r1").find((r) => r.to === "10.2.0.0/24");
      expect(route?.state).toBe("unusable");
      const through = routesOf(world, "r1").find((r) => r.out === "tun" && r.source === "static");
      expect(through).toMatchObject({ state: "unusable", reason: { code: "interface-down" } });
      expect(through?.reason?.text).toContain("leads into the tunnel itself");
    }
  });

  it("led into itself where the profile keeps it up: its packets are lost, and those of the far end are not", () => {
    const plan = tunnel(quiet, quiet, intoItself);
    const devices = plan.devices.map((device) => ({ ...device, profile: "metric-router" }));
    const { world, selfTunnels } = engineOf({ ...plan, devices }).healthy;
    expect(selfTunnels.size).toBe(0);
    expect([upIn(world, "r1/tun"), upIn(world, "r2/tun")]).toEqual([1, 1]);
    expect(endOf(tripOf(world, "r1", "10.2.0.1"))?.code).toBe("link-dead");
    const back = tripOf(world, "r2", "10.1.0.1");
    expect([back.verdict, back.worst.outbound.result]).toEqual(["one-way", "delivered"]);
    const withKeepalives = tunnel({}, {}, intoItself);
    const kept = withKeepalives.devices.map((device) => ({ ...device, profile: "metric-router" }));
    const end = engineOf({ ...withKeepalives, devices: kept }).healthy.world;
    expect([upIn(end, "r1/tun"), upIn(end, "r2/tun")]).toEqual([0, 0]);
  });

  it("led into itself through another tunnel of the same device", () => {
    const plan = tunnel(quiet, quiet);
    const devices = plan.devices.map((device) => {
      const n = device.id === "r1" ? 1 : 2;
      if (device.id === "core") return device;
      return {
        ...device,
        interfaces: [
          ...device.interfaces,
          { name: "outer2", kind: "loopback" as const, addresses: [`198.51.100.${n + 10}/32`] },
          {
            name: "tun2",
            kind: "tunnel" as const,
            addresses: [`10.9.1.${n}/30`],
            underlay: { to: `198.51.100.${13 - n}`, keepaliveMs: 0 },
          },
        ],
        routes: [
          ...device.routes,
          ...(n === 1
            ? [
                { to: "198.51.100.2/32", out: "tun2" },
                { to: "198.51.100.12/32", out: "tun" },
              ]
            : [{ to: "198.51.100.11/32", out: "wan" }]),
        ],
      };
    });
    const network = planOf({ devices, links: plan.links });
    const { world } = engineOf(network).healthy;
    expect([upIn(world, "r1/tun"), upIn(world, "r1/tun2")]).toEqual([0, 0]);
    expect(upIn(world, "r2/tun")).toBe(1);
  });

  it("takes packets alone that come from where it leads to", () => {
    const { world } = engineOf(tunnel({ ...quiet, from: "192.0.2.1" }, quiet)).healthy;
    expect(endOf(tripOf(world, "r1", "10.2.0.1"))?.code).toBe("link-dead");
    expect(endOf(tripOf(world, "r2", "10.1.0.1"))?.code).toBe("link-dead");
  });
});
