import { describe, expect, it } from "vitest";
import { linkLocalPlan } from "../../tests/support/link-local-plan.ts";
import {
  endOf,
  engineOf,
  matchesOf,
  planOf,
  routesOf,
  tripOf,
  worldWith,
} from "../../tests/support/plans.ts";

const ANY = "0.0.0.0/0";
const names = (engine: ReturnType<typeof engineOf>, hops: readonly { device: number }[]) =>
  hops.map((hop) => engine.network.devices[hop.device].id);

describe("rule 6.3: loops and the hop limit", () => {
  it("does not take a return path by another interface for a loop: a policy-routed router", () => {
    // r sends packets from the desk to an inspecting neighbor, which returns them; then r forwards them.
    const plan = planOf({
      devices: [
        {
          id: "desk",
          role: "host",
          interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
          routes: [{ to: ANY, via: "10.1.0.1" }],
        },
        {
          id: "r",
          role: "router",
          interfaces: [
            { name: "lan", addresses: ["10.1.0.1/24"] },
            { name: "side", addresses: ["10.9.0.1/24"] },
            { name: "out", addresses: ["10.2.0.1/24"] },
          ],
          policyTables: [
            {
              name: "inspect",
              match: { in: ["lan"] },
              lookup: "first",
              routes: [{ to: ANY, via: "10.9.0.2" }],
            },
          ],
        },
        {
          id: "box",
          role: "router",
          interfaces: [{ name: "e", addresses: ["10.9.0.2/24"] }],
          routes: [{ to: ANY, via: "10.9.0.1" }],
        },
        {
          id: "server",
          role: "host",
          interfaces: [{ name: "e", addresses: ["10.2.0.10/24"] }],
          routes: [{ to: ANY, via: "10.2.0.1" }],
        },
      ],
      links: [
        { id: "a", ends: ["desk/e", "r/lan"] },
        { id: "b", ends: ["box/e", "r/side"] },
        { id: "c", ends: ["server/e", "r/out"] },
      ],
    });
    const engine = engineOf(plan);
    const trip = tripOf(engine.healthy.world, "desk", "server");
    expect(trip.verdict).toBe("works");
    expect(names(engine, trip.worst.outbound.hops)).toEqual(["desk", "r", "box", "r", "server"]);
  });

  /** desk – r1 – … – rN – server, with routes both ways. */
  function chain(routers: number) {
    const subnet = (i: number) => `10.${100 + (i >> 8)}.${i & 255}`;
    const devices: unknown[] = Array.from({ length: routers }, (_, i) => ({
      id: `r${i + 1}`,
      role: "router",
      interfaces: [
        { name: "l", addresses: [`${subnet(i)}.2/24`] },
        { name: "r", addresses: [`${subnet(i + 1)}.1/24`] },
      ],
      routes: [
        { to: `${subnet(routers)}.0/24`, via: `${subnet(i + 1)}.2` },
        { to: `${subnet(0)}.0/24`, via: `${subnet(i)}.1` },
      ].filter(
        (route) => !(i === routers - 1 && route.via.endsWith(".2")) && !(i === 0 && route.via.endsWith(".1")),
      ),
    }));
    const end = (id: string, address: string, via: string) => ({
      id,
      role: "host",
      interfaces: [{ name: "e", addresses: [`${address}/24`] }],
      routes: [{ to: ANY, via }],
    });
    devices.push(end("desk", `${subnet(0)}.1`, `${subnet(0)}.2`));
    devices.push(end("server", `${subnet(routers)}.2`, `${subnet(routers)}.1`));
    const links = [
      { id: "first", ends: ["desk/e", "r1/l"] },
      ...Array.from({ length: routers - 1 }, (_, i) => ({
        id: `l${i}`,
        ends: [`r${i + 1}/r`, `r${i + 2}/l`],
      })),
      { id: "last", ends: [`r${routers}/r`, "server/e"] },
    ];
    return engineOf(planOf({ devices, links }));
  }

  it("passes 63 routers, and no 64", () => {
    expect(tripOf(chain(63).healthy.world, "desk", "server").verdict).toBe("works");
    const trip = tripOf(chain(64).healthy.world, "desk", "server");
    expect(trip.worst.outbound.result).toBe("dropped");
    expect(trip.worst.outbound.drop).toMatchObject({ code: "hop-limit", device: 63 });
  });
});

describe("rule 6.1: the source address", () => {
  it("IPv4: the address whose subnet holds the next hop, for translation too", () => {
    const plan = planOf({
      devices: [
        {
          id: "r",
          role: "router",
          interfaces: [
            { name: "out", addresses: ["10.5.0.1/24", "10.6.0.1/24"] },
            { name: "lan", addresses: ["10.1.0.1/24"] },
          ],
          routes: [{ to: ANY, via: "10.6.0.2" }],
          sourceNat: [{ out: "out", from: ["10.1.0.0/24"], to: "interface" }],
        },
        {
          id: "far",
          role: "router",
          interfaces: [
            { name: "in", addresses: ["10.6.0.2/24", "10.5.0.2/24"] },
            { name: "l", kind: "loopback", addresses: ["192.0.2.1/32"] },
          ],
        },
        {
          id: "desk",
          role: "host",
          interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
          routes: [{ to: ANY, via: "10.1.0.1" }],
        },
      ],
      links: [
        { id: "a", ends: ["r/out", "far/in"] },
        { id: "b", ends: ["r/lan", "desk/e"] },
      ],
    });
    const { world } = engineOf(plan).healthy;
    expect(tripOf(world, "r", "192.0.2.1").worst.outbound.packet?.source.w0).toBe(0x0a060001);
    expect(tripOf(world, "r", "10.5.0.2").worst.outbound.packet?.source.w0).toBe(0x0a050001);
    expect(tripOf(world, "desk", "192.0.2.1").worst.outbound.packet?.source.w0).toBe(0x0a060001);
  });

  const sourced = planOf({
    devices: [
      {
        id: "r",
        role: "router",
        interfaces: [
          { name: "a", addresses: ["10.5.0.1/24"] },
          { name: "b", addresses: ["10.6.0.1/24"] },
        ],
        routes: [{ to: "192.0.2.0/24", via: "10.5.0.2" }],
        policyTables: [
          {
            name: "by-source",
            match: { from: ["10.5.0.0/24"] },
            lookup: "first",
            routes: [{ to: "192.0.2.0/24", via: "10.6.0.2" }],
          },
        ],
      },
      {
        id: "far",
        role: "router",
        interfaces: [
          { name: "a", addresses: ["10.5.0.2/24"] },
          { name: "b", addresses: ["10.6.0.2/24"] },
          { name: "l", kind: "loopback", addresses: ["192.0.2.1/32"] },
        ],
      },
    ],
    links: [
      { id: "a", ends: ["r/a", "far/a"] },
      { id: "b", ends: ["r/b", "far/b"] },
    ],
  });

  it("asks tables that match by source again, with the source chosen", () => {
    const { outbound } = tripOf(engineOf(sourced).healthy.world, "r", "192.0.2.1").worst;
    expect(outbound.packet?.source.w0).toBe(0x0a050001);
    expect(outbound.hops[0].nextHop?.w0).toBe(0x0a060002);
  });

  it("takes no source that is not its own, or on an interface that is down", () => {
    const engine = engineOf(sourced);
    expect(endOf(tripOf(engine.healthy.world, "r", "192.0.2.1", { source: "10.7.0.1" }))?.code).toBe(
      "source-not-own",
    );
    const down = worldWith(engine, "link:b");
    expect(endOf(tripOf(down, "r", "192.0.2.1", { source: "10.6.0.1" }))?.code).toBe("source-not-own");
  });

  it("chooses by the next hop in the VRF that a route leads to, and tells no source of what was never sent", () => {
    const plan = planOf({
      devices: [
        {
          id: "r",
          role: "router",
          interfaces: [
            { name: "a", addresses: ["10.0.0.1/24"] },
            { name: "b", vrf: "blue", addresses: ["10.1.0.1/24"] },
          ],
          routes: [
            { to: "10.2.0.0/16", toVrf: "blue" },
            { vrf: "blue", to: "10.2.0.0/16", via: "10.1.0.2" },
            { to: "10.3.0.0/16", discard: "reject" },
          ],
        },
        {
          id: "s",
          role: "router",
          interfaces: [
            { name: "b", addresses: ["10.1.0.2/24"] },
            { name: "lo", kind: "loopback", addresses: ["10.2.0.1/32"] },
          ],
        },
      ],
      links: [{ id: "l", ends: ["r/b", "s/b"] }],
    });
    const { world } = engineOf(plan).healthy;
    const trip = tripOf(world, "r", "10.2.0.1");
    expect(trip.worst.outbound.packet?.source.w0).toBe(0x0a010001);
    // The reply goes to r, not to s: r's source is its destination.
    expect(trip.worst.reply?.hops.map((hop) => hop.device)).toEqual([1, 0]);
    expect(tripOf(world, "r", "10.3.0.1").worst.outbound).toMatchObject({
      packet: null,
      drop: { code: "rejected", packet: null },
    });
  });

  it("IPv6: no link-local source for a global destination where another interface has a better", () => {
    const plan = planOf({
      devices: [
        {
          id: "r",
          role: "router",
          interfaces: [
            { name: "a", addresses: ["fe80::1/64"] },
            { name: "l", kind: "loopback", addresses: ["2001:db8:1::1/128"] },
          ],
          routes: [{ to: "::/0", via: "fe80::2", out: "a" }],
        },
        {
          id: "far",
          role: "router",
          interfaces: [
            { name: "a", addresses: ["fe80::2/64"] },
            { name: "l", kind: "loopback", addresses: ["2001:db8:2::1/128"] },
          ],
          routes: [{ to: "::/0", via: "fe80::1", out: "a" }],
        },
      ],
      links: [{ id: "a", ends: ["r/a", "far/a"] }],
    });
    const trip = tripOf(engineOf(plan).healthy.world, "r", "far");
    expect(trip.verdict).toBe("works");
    expect(trip.worst.outbound.packet?.source.w0).toBe(0x20010db8);
  });

  it("several addresses of one subnet on one interface are one connected route", () => {
    const plan = planOf({
      devices: [
        { id: "r", role: "router", interfaces: [{ name: "a", addresses: ["10.5.0.1/24", "10.5.0.9/24"] }] },
        { id: "s", role: "router", interfaces: [{ name: "a", addresses: ["10.5.0.2/24"] }] },
      ],
      links: [{ id: "a", ends: ["r/a", "s/a"] }],
    });
    const { world } = engineOf(plan).healthy;
    expect(routesOf(world, "r").filter((route) => route.source === "connected")).toHaveLength(1);
    expect(matchesOf(world, "r", "10.5.0.7")).toHaveLength(1);
  });
});

describe("rule 6.1: link-local addresses (RFC 4007)", () => {
  const plan = planOf({
    devices: [
      {
        id: "r",
        role: "router",
        interfaces: [
          { name: "e0", addresses: ["fe80::1/64"] },
          { name: "e1", addresses: ["fe80::1/64", "2001:db8:1::1/64"] },
        ],
        watches: [
          { id: "zone", kind: "probe", target: "fe80::2%e0", failAfter: 1 },
          { id: "pinned", kind: "probe", target: "fe80::3", out: "e1", failAfter: 1 },
        ],
      },
      { id: "a", role: "router", interfaces: [{ name: "e", addresses: ["fe80::2/64"] }] },
      {
        id: "b",
        role: "router",
        interfaces: [
          { name: "e", addresses: ["fe80::3/64", "2001:db8:1::3/64"] },
          { name: "f", addresses: ["fe80::9/64", "2001:db8:2::3/64"] },
        ],
      },
    ],
    links: [
      { id: "a", ends: ["r/e0", "a/e"] },
      { id: "b", ends: ["r/e1", "b/e"] },
    ],
    flows: [{ id: "ll", from: "r", to: "fe80:0::2%e0" }],
  });
  const engine = engineOf(plan);

  it("are meant on the interface that is named, and answered there", () => {
    expect(plan.flows[0].to).toBe("fe80::2%e0");
    expect(tripOf(engine.healthy.world, "r", "fe80::2%e0").verdict).toBe("works");
    expect(endOf(tripOf(engine.healthy.world, "r", "fe80::2%e1"))?.code).toBe("host-not-listening");
    expect(tripOf(engine.healthy.world, "r/e1", "fe80::3").verdict).toBe("works");
    // Only one interface could be meant.
    expect(tripOf(engine.healthy.world, "a", "fe80::1").verdict).toBe("works");
    expect(endOf(tripOf(engine.healthy.world, "r", "fe80::3"))?.code).toBe("link-local");
  });

  it("keep probes of link-local next hops up on a healthy network", () => {
    expect([...engine.healthy.world.state.watchUp]).toEqual([1, 1]);
    expect([...worldWith(engine, "link:a").state.watchUp]).toEqual([0, 1]);
  });

  it("are not forwarded", () => {
    const trip = tripOf(engine.healthy.world, "r/e1", "2001:db8:2::9", { source: "fe80::1" });
    expect(endOf(trip)?.code).not.toBe(undefined);
    const forwarded = linkLocalPlan();
    const sent = tripOf(engineOf(forwarded).healthy.world, "h", "2001:db8:2::2");
    expect(endOf(sent)?.code).toBe("link-local");
  });

  it.each(["10.0.0.1%e0", "2001:db8::1%e0", "fe80::2%", "fe80::2%nowhere"])("%s is refused", (to) => {
    expect(() => planOf({ ...plan, flows: [{ id: "bad", from: "r", to }] })).toThrow();
  });
});

describe("rule 6.1 and 4.4: the first address of an IPv6 subnet (RFC 4291, 2.6.1)", () => {
  const plan = (role: string, length = 64) =>
    planOf({
      devices: [
        {
          id: "r",
          role,
          interfaces: [{ name: "e", addresses: [`2001:db8:1::1/${length}`] }],
          routes: [{ to: "2001:db8:9::/64", via: "2001:db8:1::", out: "e" }],
        },
        { id: "s", role: "router", interfaces: [{ name: "e", addresses: [`2001:db8:1::2/${length}`] }] },
      ],
      links: [{ id: "a", ends: ["r/e", "s/e"] }],
    });
  const stateOf = (role: string) =>
    routesOf(engineOf(plan(role)).healthy.world, "r").find((route) => route.to === "2001:db8:9::/64");

  it("is the forwarding router's own, and a good next hop on a host", () => {
    expect(stateOf("router")).toMatchObject({ state: "unusable", reason: { code: "next-hop-own-address" } });
    expect(stateOf("host")).toMatchObject({ state: "in-use" });
  });

  it("is answered by a router on the link", () => {
    const { world } = engineOf(plan("host")).healthy;
    const trip = tripOf(world, "r", "2001:db8:1::");
    expect(trip.verdict).toBe("works");
    expect(trip.worst.outbound.hops.at(-1)?.device).toBe(1);
  });
});

describe("rule 6.2: the return-path check (RFC 3704)", () => {
  /** desk – r – server, r checking, with whatever routes it has back to the desk's network. */
  const checked = (profile: Record<string, unknown>, r: Record<string, unknown>) =>
    engineOf(
      planOf({
        profiles: [{ id: "checking", base: "metric-router", ...profile }],
        devices: [
          {
            id: "desk",
            role: "router",
            interfaces: [
              { name: "e", addresses: ["10.1.0.10/24"] },
              { name: "l", kind: "loopback", addresses: ["10.8.0.1/32"] },
            ],
            routes: [{ to: ANY, via: "10.1.0.1" }],
          },
          {
            id: "r",
            role: "router",
            profile: "checking",
            interfaces: [
              { name: "lan", addresses: ["10.1.0.1/24"] },
              { name: "out", addresses: ["10.2.0.1/24"] },
            ],
            ...r,
          },
          {
            id: "server",
            role: "router",
            interfaces: [{ name: "e", addresses: ["10.2.0.10/24"] }],
            routes: [{ to: ANY, via: "10.2.0.1" }],
          },
        ],
        links: [
          { id: "a", ends: ["desk/e", "r/lan"] },
          { id: "b", ends: ["server/e", "r/out"] },
        ],
      }),
    );
  const outcome = (engine: ReturnType<typeof engineOf>) =>
    endOf(tripOf(engine.healthy.world, "desk", "10.2.0.10", { source: "10.8.0.1" }))?.code ?? "works";

  it.each([
    ["loose", [{ to: "10.8.0.0/24", discard: "drop" }], "return-path"],
    ["loose", [{ to: ANY, via: "10.2.0.10" }], "looped"],
    ["strict", [{ to: "10.8.0.0/24", via: "10.1.0.10" }], "works"],
    ["strict", [{ to: "10.8.0.0/24", via: "10.2.0.10" }], "return-path"],
  ])("%s with %j: %s", (returnPath, routes, wanted) => {
    expect(outcome(checked({ returnPath }, { routes }))).toBe(wanted);
  });

  it("a default need not count for a loose check", () => {
    const routes = [{ to: ANY, via: "10.2.0.10" }];
    expect(outcome(checked({ returnPath: "loose", returnPathDefault: false }, { routes }))).toBe(
      "return-path",
    );
  });

  it("asks the policy tables that a packet back would meet, or main alone", () => {
    const r = {
      routes: [{ to: "10.8.0.0/24", via: "10.2.0.10" }],
      policyTables: [
        {
          name: "back",
          match: { from: ["10.2.0.0/24"] },
          lookup: "first",
          routes: [{ to: "10.8.0.0/24", via: "10.1.0.10" }],
        },
      ],
    };
    expect(outcome(checked({ returnPath: "strict" }, r))).toBe("works");
    expect(outcome(checked({ returnPath: "strict", returnPathTables: "main" }, r))).toBe("return-path");
  });

  it.each([
    ["out", "works"],
    ["lan", "return-path"],
  ])("a packet back would come in where this one goes out: a table for %s", (port, wanted) => {
    const table = {
      name: "back",
      match: { in: [port] },
      lookup: "first",
      routes: [{ to: "10.8.0.0/24", via: "10.1.0.10" }],
    };
    const r = { routes: [{ to: "10.8.0.0/24", via: "10.2.0.10" }], policyTables: [table] };
    // The reply itself is led by main out of the wrong port where the table is not for it, so only the check is asked.
    const trip = tripOf(checked({ returnPath: "strict" }, r).healthy.world, "desk", "10.2.0.10", {
      source: "10.8.0.1",
    });
    expect(trip.worst.outbound.drop?.code ?? "works").toBe(wanted);
  });
});

describe("rule 6.6: replies that meet a firewall which never saw the flow", () => {
  const engine = engineOf(
    planOf({
      devices: [
        {
          id: "desk",
          role: "host",
          interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
          routes: [{ to: ANY, via: "10.1.0.1" }],
        },
        ...["one", "two"].map((id, n) => ({
          id,
          role: "firewall",
          interfaces: [
            { name: "in", zone: "in", addresses: [`10.1.0.${n + 1}/24`] },
            { name: "out", zone: "out", addresses: [`10.2.0.${n + 1}/24`] },
          ],
          policy: { default: "allow", rules: [] },
        })),
        {
          id: "server",
          role: "host",
          interfaces: [{ name: "e", addresses: ["10.2.0.10/24"] }],
          routes: [{ to: ANY, via: "10.2.0.2" }],
        },
      ],
      links: [
        { id: "a", medium: "switch", ends: ["desk/e", "one/in", "two/in"] },
        { id: "b", medium: "switch", ends: ["server/e", "one/out", "two/out"] },
      ],
    }),
  );

  it.each([
    ["tcp", "no-state"],
    ["icmp", "no-state"],
    ["udp", "works"],
  ] as const)("over %s: %s", (protocol, wanted) => {
    const more = protocol === "icmp" ? {} : { protocol, port: 443 };
    const trip = tripOf(engine.healthy.world, "desk", "server", more);
    expect(endOf(trip)?.code ?? "works").toBe(wanted);
  });
});
