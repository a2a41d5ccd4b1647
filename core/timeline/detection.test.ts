import { describe, expect, it } from "vitest";
import { engineOf, planOf, routesOf, tripOf, worldWith } from "../../tests/support/plans.ts";
import { formatAddress, parseAddress } from "../address/index.ts";
import { findElement } from "../network/index.ts";
import type { BfdSession } from "../plan/index.ts";
import { askFrom, chooseSource, gatewaysOf } from "../walk/index.ts";
import { bfdDetection, bfdUp, Outcomes, timelineOf } from "./index.ts";

const session = (minTxMs: number, minRxMs: number, multiplier: number): BfdSession => ({
  id: "s",
  kind: "bfd",
  interface: "e",
  peer: "192.0.2.2",
  minTxMs,
  minRxMs,
  multiplier,
});

describe("worked examples, by hand", () => {
  it("RFC 5880 section 6.8.4: the peer's multiplier times the greater of own receive and peer's transmit interval", () => {
    // Local minimum receive 300 ms, peer minimum transmit 500 ms, peer multiplier 3: 3 × max(300, 500) = 1500 ms.
    expect(bfdDetection(session(300, 300, 5), session(500, 200, 3))).toEqual({ min: 1000, max: 1500 });
    // The other end: multiplier 5 times max(200, 300) = 1500 ms, one interval of 300 ms less at least.
    expect(bfdDetection(session(500, 200, 3), session(300, 300, 5))).toEqual({ min: 1200, max: 1500 });
  });

  it("RFC 5880 sections 6.8.3 and 6.8.7: a session comes up within twice the slower end's interval, a second or more", () => {
    expect(bfdUp(session(300, 300, 3), session(300, 300, 3))).toEqual({ min: 0, max: 2000 });
    // One end may send every 500 ms, but the other accepts at most one per 1500 ms.
    expect(bfdUp(session(500, 300, 3), session(300, 1500, 3))).toEqual({ min: 0, max: 3000 });
    expect(bfdUp(session(2000, 300, 3), session(300, 300, 3))).toEqual({ min: 0, max: 4000 });
  });

  it.each([
    // RFC 6724 section 10.1's cases that need no policy table: rule 2 prefers scope, rule 8 the longest match.
    ["2001:db8:1::1", ["2001:db8:3::1", "fe80::1"], "2001:db8:3::1"],
    ["fe80::2", ["2001:db8:1::1", "fe80::1"], "fe80::1"],
    ["2001:db8:1::1", ["2001:db8:1::2", "2001:db8:3::2"], "2001:db8:1::2"],
    // Section 2.2: the common prefix counts up to the length of the source's own subnet, so these are equal.
    ["2001:db8:1::d5e3:0:0:1", ["2001:db8:1::2", "2001:db8:1::d5e3:7953:13eb:22e8"], "2001:db8:1::2"],
  ])("RFC 6724 section 5: to %s out of %j goes %s", (to, own, wanted) => {
    const plan = planOf({
      devices: [
        { id: "r", role: "router", interfaces: [{ name: "e", addresses: own.map((a) => `${a}/64`) }] },
      ],
    });
    const { network } = engineOf(plan);
    const destination = parseAddress(to);
    const state = { network, interfaceUp: new Uint8Array([1]) };
    const hop = { out: 0, address: null, peer: -1 };
    const source = destination && chooseSource(state, network.devices[0], hop, destination);
    expect(source && formatAddress(source)).toBe(wanted);
  });
});

/** desk – r1 = (a circuit | a cable) = r2 – server, r1's primary over the circuit under a watch. */
function watched(
  watch: Record<string, unknown>,
  far: Record<string, unknown>[] = [],
  back: Record<string, unknown> = {},
) {
  return planOf({
    devices: [
      {
        id: "desk",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
      },
      {
        id: "r1",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"] },
          { name: "a", addresses: ["192.0.2.1/30"] },
          { name: "b", addresses: ["192.0.2.5/30"] },
        ],
        routes: [
          { to: "10.2.0.0/24", via: "192.0.2.2", watch: "w" },
          { to: "10.2.0.0/24", via: "192.0.2.6", distance: 20 },
        ],
        watches: [{ id: "w", ...watch }, ...((watch.more as object[]) ?? [])].map(
          ({ more: _more, ...w }: { more?: unknown }) => w,
        ),
      },
      {
        id: "r2",
        role: "router",
        interfaces: [
          { name: "a", addresses: ["192.0.2.2/30"] },
          { name: "b", addresses: ["192.0.2.6/30"] },
          { name: "lan", addresses: ["10.2.0.1/24"] },
        ],
        routes: [
          { to: "10.1.0.0/24", via: "192.0.2.1", ...back },
          { to: "10.1.0.0/24", via: "192.0.2.5", distance: 20 },
        ],
        watches: far,
      },
      {
        id: "server",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.2.0.10/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.2.0.1" }],
      },
    ],
    links: [
      { id: "la", medium: "switch", ends: ["desk/e", "r1/lan"] },
      { id: "a", medium: "circuit", ends: ["r1/a", "r2/a"] },
      { id: "b", ends: ["r1/b", "r2/b"] },
      { id: "lb", medium: "switch", ends: ["server/e", "r2/lan"] },
    ],
    flows: [{ id: "f", from: "desk", to: "server", rate: 10 }],
  });
}

function gapOf(plan: ReturnType<typeof planOf>, restoreAfter?: number) {
  const engine = engineOf(plan);
  const asked = askFrom(engine.network, plan.flows[0]);
  if (!asked.ok) throw new Error(asked.message);
  const a = findElement(engine.network, "link:a") as number;
  const steps = [
    { atMs: 0, fail: [a], restore: [] },
    ...(restoreAfter ? [{ atMs: restoreAfter, fail: [], restore: [a] }] : []),
  ];
  const flows = new Outcomes(gatewaysOf(engine.healthy.world), [asked.question], engine.healthy.world);
  return timelineOf(engine, flows, [10], steps).flows[0];
}

const bfd = (id: string, port: string, peer: string, timers: [number, number, number]) => ({
  id,
  kind: "bfd",
  interface: port,
  peer,
  minTxMs: timers[0],
  minRxMs: timers[1],
  multiplier: timers[2],
});

describe("rule 9 in the tables and in time", () => {
  it("9.2: BFD on both ends moves both ways over, after the slower end's detection", () => {
    const plan = watched(
      bfd("w", "a", "192.0.2.2", [300, 300, 3]),
      [bfd("v", "a", "192.0.2.1", [500, 500, 3])],
      { watch: "v" },
    );
    const engine = engineOf(plan);
    expect(engine.healthy.world.state.watchUp).toEqual(Uint8Array.from([1, 1]));
    expect(tripOf(worldWith(engine, "link:a"), "desk", "server").verdict).toBe("works");
    // r1 waits 3 × max(300, 500) = 1500 ms, r2 3 × max(500, 300) = 1500 ms; one interval of 500 ms less at least.
    expect(gapOf(plan).outageMs).toEqual({ min: 1000, max: 1500 });
    expect(gapOf(plan).lost).toEqual({ min: 10, max: 15 });
  });

  it("9.2: a session on one end only never comes up, and its route is out", () => {
    const { world } = engineOf(watched(bfd("w", "a", "192.0.2.2", [300, 300, 3]))).healthy;
    const primary = routesOf(world, "r1").find((r) => r.via === "192.0.2.2");
    expect(primary).toMatchObject({ state: "unusable", reason: { code: "watch-down" } });
  });

  const probe = {
    kind: "probe",
    target: "192.0.2.2",
    out: "a",
    via: "192.0.2.2",
    intervalMs: 10_000,
    timeoutMs: 1000,
    failAfter: 2,
    recoverAfter: 1,
  };

  it("9.3: a pinned probe opens a gap of 11 to 21 s on the way out, the return path being watched as well", () => {
    const plan = watched(probe, [{ id: "v", ...probe, target: "192.0.2.1", via: "192.0.2.1" }], {
      watch: "v",
    });
    const flow = gapOf(plan, 120_000);
    expect(flow.outageMs).toEqual({ min: 11_000, max: 21_000 });
    expect(flow.lost).toEqual({ min: 110, max: 210 });
    expect(flow.spans.at(-1)).toMatchObject({ verdict: "works", toMs: null });
  });

  it("9.1 and 9.4: a group of any stays up with one member, of all it does not, and its delay counts", () => {
    const group = (need: unknown, downDelayMs = 0) =>
      watched({
        kind: "group",
        need,
        of: ["far", "port"],
        downDelayMs,
        more: [
          { id: "far", ...probe },
          { id: "port", kind: "interface", interface: "a" },
        ],
      });
    const up = (plan: ReturnType<typeof planOf>) => worldWith(engineOf(plan), "link:a").state.watchUp[0];
    expect(up(group("any"))).toBe(1);
    expect(up(group("all"))).toBe(0);
    expect(up(group(2))).toBe(0);
    expect(up(group(1))).toBe(1);
  });

  it("a watch that is failed by hand withdraws its route", () => {
    const world = worldWith(engineOf(watched({ kind: "interface", interface: "a" })), "watch:r1/w");
    const states = routesOf(world, "r1")
      .filter((r) => r.to === "10.2.0.0/24")
      .map((r) => `${r.via} ${r.state}`);
    expect(states).toEqual(["192.0.2.6 in-use", "192.0.2.2 unusable"]);
  });
});

describe("rules 2.5, 3.3, 3.4 and 6.2 beyond the plain network", () => {
  /** r1 and r2 over a transfer network, a tunnel between them, and a host behind each. */
  const tunnel = (keepaliveMs: number, more: { routes?: object[]; medium?: string } = {}) =>
    planOf({
      devices: [
        {
          id: "h1",
          role: "host",
          interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
          routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
        },
        {
          id: "r1",
          role: "router",
          interfaces: [
            { name: "lan", addresses: ["10.1.0.1/24"] },
            { name: "wan", addresses: ["192.0.2.1/30"] },
            {
              name: "tun",
              kind: "tunnel",
              addresses: ["10.9.0.0/31"],
              underlay: { to: "192.0.2.2", keepaliveMs },
            },
          ],
          routes: [{ to: "10.2.0.0/24", out: "tun" }, ...(more.routes ?? [])],
        },
        {
          id: "r2",
          role: "router",
          interfaces: [
            { name: "lan", addresses: ["10.2.0.1/24"] },
            { name: "wan", addresses: ["192.0.2.2/30"] },
            {
              name: "tun",
              kind: "tunnel",
              addresses: ["10.9.0.1/31"],
              underlay: { to: "192.0.2.1", keepaliveMs },
            },
          ],
          routes: [{ to: "10.1.0.0/24", out: "tun" }],
        },
        {
          id: "h2",
          role: "host",
          interfaces: [{ name: "e", addresses: ["10.2.0.10/24"] }],
          routes: [{ to: "0.0.0.0/0", via: "10.2.0.1" }],
        },
      ],
      links: [
        { id: "l1", medium: "switch", ends: ["h1/e", "r1/lan"] },
        { id: "wan", medium: more.medium ?? "circuit", ends: ["r1/wan", "r2/wan"] },
        { id: "l2", medium: "switch", ends: ["h2/e", "r2/lan"] },
      ],
    });
  const codeOf = (plan: ReturnType<typeof planOf>, ...failed: string[]) => {
    const trip = tripOf(worldWith(engineOf(plan), ...failed), "h1", "h2");
    return trip.worst.outbound.drop?.code ?? trip.verdict;
  };

  it("2.5: a tunnel carries while its underlay delivers; with keepalives it goes down, without packets vanish", () => {
    expect(codeOf(tunnel(10_000))).toBe("works");
    expect(codeOf(tunnel(10_000), "link:wan")).toBe("no-route");
    expect(codeOf(tunnel(0), "link:wan")).toBe("link-dead");
  });

  it("2.5: a tunnel whose underlay leads into itself is down", () => {
    const engine = engineOf(tunnel(10_000, { routes: [{ to: "192.0.2.2/32", out: "tun" }] }));
    expect(engine.healthy.selfTunnels.size).toBeGreaterThan(0);
    expect(routesOf(engine.healthy.world, "r1").find((r) => r.to === "10.2.0.0/24")).toMatchObject({
      state: "unusable",
      reason: { code: "interface-down" },
    });
  });

  it("3.3: a learned route goes with its neighbour, and beats a floating static one until then", () => {
    const plan = planOf({
      devices: [
        {
          id: "r1",
          role: "router",
          interfaces: [
            { name: "a", addresses: ["192.0.2.1/30"] },
            { name: "b", addresses: ["192.0.2.5/30"] },
          ],
          learned: [
            {
              to: "10.2.0.0/24",
              via: "192.0.2.2",
              out: "a",
              protocol: "ospf",
              distance: 110,
              lostAfterMs: 40_000,
            },
          ],
          routes: [{ to: "10.2.0.0/24", via: "192.0.2.6", distance: 200 }],
        },
        {
          id: "r2",
          role: "router",
          interfaces: [
            { name: "a", addresses: ["192.0.2.2/30"] },
            { name: "b", addresses: ["192.0.2.6/30"] },
          ],
        },
      ],
      links: [
        { id: "a", medium: "circuit", ends: ["r1/a", "r2/a"] },
        { id: "b", ends: ["r1/b", "r2/b"] },
      ],
    });
    const states = (...failed: string[]) =>
      routesOf(worldWith(engineOf(plan), ...failed), "r1")
        .filter((r) => r.to === "10.2.0.0/24")
        .map((r) => `${r.source} ${r.state}`);
    expect(states()).toEqual(["ospf in-use", "static standby"]);
    expect(states("link:a")).toEqual(["static in-use", "ospf unusable"]);
  });

  it("3.4: a handed-out gateway gives a default through the far end", () => {
    const plan = planOf({
      devices: [
        {
          id: "edge",
          role: "router",
          interfaces: [{ name: "wan", addresses: ["198.51.100.2/30"], gatewayFrom: "dhcp" }],
        },
        { id: "p", role: "provider", interfaces: [{ name: "c", addresses: ["198.51.100.1/30"] }] },
      ],
      links: [{ id: "l", ends: ["edge/wan", "p/c"] }],
    });
    expect(routesOf(engineOf(plan).healthy.world, "edge").find((r) => r.to === "0.0.0.0/0")).toMatchObject({
      source: "dhcp",
      via: "198.51.100.1",
      out: "wan",
      state: "in-use",
    });
  });

  it("6.2: policy tables steer by where a packet came from; overlay wins ties and falls back, first goes first", () => {
    const plan = (lookup: string) =>
      planOf({
        devices: [
          {
            id: "guest",
            role: "host",
            interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
            routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
          },
          {
            id: "desk",
            role: "host",
            interfaces: [{ name: "e", addresses: ["10.2.0.10/24"] }],
            routes: [{ to: "0.0.0.0/0", via: "10.2.0.1" }],
          },
          {
            id: "r",
            role: "router",
            interfaces: [
              { name: "guest", addresses: ["10.1.0.1/24"] },
              { name: "lan", addresses: ["10.2.0.1/24"] },
              { name: "a", addresses: ["192.0.2.1/30"] },
              { name: "b", addresses: ["192.0.2.5/30"] },
            ],
            routes: [
              { to: "0.0.0.0/0", via: "192.0.2.2" },
              { to: "203.0.113.0/24", via: "192.0.2.2" },
            ],
            policyTables: [
              {
                name: "guests",
                match: { in: ["guest"] },
                lookup,
                routes: [{ to: "0.0.0.0/0", via: "192.0.2.6" }],
              },
            ],
          },
          { id: "a", role: "router", interfaces: [{ name: "e", addresses: ["192.0.2.2/30"] }] },
          { id: "b", role: "router", interfaces: [{ name: "e", addresses: ["192.0.2.6/30"] }] },
        ],
        links: [
          { id: "g", medium: "switch", ends: ["guest/e", "r/guest"] },
          { id: "d", medium: "switch", ends: ["desk/e", "r/lan"] },
          { id: "la", ends: ["r/a", "a/e"] },
          { id: "lb", ends: ["r/b", "b/e"] },
        ],
      });
    const exit = (lookup: string, from: string, to: string) => {
      const engine = engineOf(plan(lookup));
      const hop = tripOf(engine.healthy.world, from, to).worst.outbound.hops[1];
      return engine.network.interfaces.names[hop.out];
    };
    expect(exit("overlay", "guest", "198.51.100.9")).toBe("b");
    expect(exit("overlay", "desk", "198.51.100.9")).toBe("a");
    expect(exit("overlay", "guest", "203.0.113.9")).toBe("a");
    expect(exit("first", "guest", "203.0.113.9")).toBe("b");
    expect(exit("overlay", "guest", "10.2.0.10")).toBe("lan");
  });
});
