import { type Plan, readPlan } from "../../core/plan/index.ts";

export type Document = Record<string, unknown>;

function planOf(document: Document): Plan {
  const read = readPlan({ ironFork: 1, name: "rehearsed", ...document });
  if (!read.ok) throw new Error(read.errors.map(({ path, message }) => `${path}: ${message}`).join("; "));
  return read.plan;
}

const rate = 100;

/** Addresses of the one shape that all cases have, in either family. */
function addresses(six: boolean) {
  const net = (n: number, host: number) => (six ? `fd20:0:0:${n}::${host}` : `10.20.${n}.${host}`);
  return {
    net,
    whole: six ? "::/0" : "0.0.0.0/0",
    on: (n: number, host: number) => `${net(n, host)}/${six ? 64 : 24}`,
    prefix: (n: number) => (six ? `fd20:0:0:${n}::/64` : `10.20.${n}.0/24`),
  };
}

interface TwoWays {
  readonly six?: boolean;
  readonly profile?: string;
  readonly medium: "cable" | "switch" | "circuit";
  /** Watches of each side, given the neighbour's address on the first way and the far host; the routes by it hang on the last. */
  readonly watches?: (side: { peer: string; far: string; own: string }) => Document[];
  readonly link?: Document;
  readonly risks?: Document[];
  /** The second way as a tagged interface beside the first. */
  readonly tagged?: boolean;
}

/** A host behind a router, two ways, a router, a host: the second way is a floating route on both sides. */
export function twoWays({
  six = false,
  profile = "classic-router",
  medium,
  watches,
  link,
  risks,
  tagged,
}: TwoWays): Plan {
  const { net, on, whole, prefix } = addresses(six);
  const side = (own: 1 | 2) => {
    const other = 3 - own;
    const all = watches?.({ peer: net(3, other), far: net(other, 10), own: net(3, own) }) ?? [];
    const watch = all.at(-1)?.id;
    const to = own === 1 ? whole : prefix(1);
    const backup = tagged ? "b.40" : "b";
    return {
      id: own === 1 ? "left" : "right",
      role: "router",
      profile,
      interfaces: [
        { name: "lan", addresses: [on(own, 1)] },
        { name: "a", addresses: [on(3, own)] },
        ...(tagged ? [{ name: "b" }] : []),
        { name: backup, addresses: [on(4, own)], ...(tagged ? { parent: "b", vlan: 40 } : {}) },
      ],
      routes: [
        { to, via: net(3, other), ...(watch ? { watch } : {}) },
        profile === "metric-router"
          ? { to, via: net(4, other), metric: 500 }
          : { to, via: net(4, other), distance: 200 },
      ],
      watches: all,
    };
  };
  const host = (own: 1 | 2) => ({
    id: own === 1 ? "desk" : "server",
    role: "host",
    interfaces: [{ name: "eth0", addresses: [on(own, 10)] }],
    routes: [{ to: whole, via: net(own, 1) }],
  });
  const devices = [host(1), side(1), side(2), host(2)];
  const b = tagged ? "b.40" : "b";
  return planOf({
    devices,
    links: [
      { id: "lan-1", medium: "switch", ends: ["desk/eth0", "left/lan"] },
      { id: "first", medium, ends: ["left/a", "right/a"], ...link },
      ...(tagged ? [{ id: "trunk", medium: "cable", ends: ["left/b", "right/b"] }] : []),
      {
        id: "second",
        medium: tagged ? "circuit" : "cable",
        ends: [`left/${b}`, `right/${b}`],
        ...(tagged ? {} : link),
      },
      { id: "lan-2", medium: "switch", ends: ["right/lan", "server/eth0"] },
      ...(link?.over ? [{ id: "duct", medium: "cable", ends: [] }] : []),
    ],
    risks,
    gateways: [
      { id: "one", at: "left/a" },
      { id: "two", at: `left/${b}` },
    ],
    flows: [
      { id: "out", from: "desk", to: net(2, 10), protocol: "udp", port: 5000, rate },
      { id: "in", from: "server", to: net(1, 10), protocol: "udp", port: 5000, rate },
    ],
  });
}

/** Two sites by a tunnel over a provider's lines, and by a line of their own behind it; each site's own VRF goes the line alone. */
export function tunnelled(six: boolean, keepaliveMs: number, failAfter = 3): Plan {
  const { net, on, whole, prefix } = addresses(six);
  const outer = (n: number, host: number) => `192.0.2.${n * 4 + host}`;
  const side = (own: 1 | 2) => {
    const other = 3 - own;
    return {
      id: own === 1 ? "left" : "right",
      role: "router",
      interfaces: [
        { name: "lan", addresses: [on(own, 1)] },
        { name: "out", addresses: [`${outer(own, 1)}/30`] },
        {
          name: "tun",
          kind: "tunnel",
          addresses: [on(3, own)],
          underlay: { to: outer(other, 1), from: outer(own, 1), keepaliveMs, failAfter },
        },
        { name: "line", addresses: [on(4, own)] },
        { name: "cams", vrf: "cctv", addresses: [on(10 + own, 1)] },
        { name: "spare", vrf: "cctv", addresses: [on(5, own)] },
      ],
      routes: [
        { to: "192.0.2.0/24", via: outer(own, 2) },
        { to: prefix(other), via: net(3, other) },
        { to: prefix(other), via: net(4, other), distance: 200 },
        { to: whole, via: net(5, other), vrf: "cctv" },
      ],
    };
  };
  const host = (id: string, n: number) => ({
    id,
    role: "host",
    interfaces: [{ name: "eth0", addresses: [on(n, 10)] }],
    routes: [{ to: whole, via: net(n, 1) }],
  });
  return planOf({
    devices: [
      host("desk", 1),
      host("server", 2),
      host("camera", 11),
      host("recorder", 12),
      side(1),
      side(2),
      {
        id: "provider",
        role: "router",
        interfaces: [1, 2].map((n) => ({ name: `to-${n}`, addresses: [`${outer(n, 2)}/30`] })),
      },
    ],
    links: [
      { id: "lan-1", medium: "switch", ends: ["desk/eth0", "left/lan"] },
      { id: "lan-2", medium: "switch", ends: ["server/eth0", "right/lan"] },
      { id: "lan-3", medium: "switch", ends: ["camera/eth0", "left/cams"] },
      { id: "lan-4", medium: "switch", ends: ["recorder/eth0", "right/cams"] },
      { id: "access-1", medium: "circuit", ends: ["left/out", "provider/to-1"] },
      { id: "access-2", medium: "circuit", ends: ["right/out", "provider/to-2"] },
      { id: "line", medium: "cable", ends: ["left/line", "right/line"] },
      { id: "spare", medium: "cable", ends: ["left/spare", "right/spare"] },
    ],
    gateways: [
      { id: "one", at: "left/tun" },
      { id: "two", at: "left/line" },
      { id: "three", at: "left/spare" },
    ],
    flows: [
      { id: "out", from: "desk", to: net(2, 10), protocol: "udp", port: 5000, rate },
      { id: "in", from: "server", to: net(1, 10), protocol: "udp", port: 5000, rate },
      { id: "pictures", from: "camera", to: net(12, 10), protocol: "udp", port: 5000, rate },
    ],
  });
}

interface Shared {
  readonly advertMs: number;
  readonly priorities: readonly [number, number];
  readonly preempt?: boolean;
  readonly preemptDelayMs?: number;
  /** What the left one takes away from its priority while its uplink is down. */
  readonly lower?: number;
  readonly uplink?: "cable" | "circuit";
  readonly bootMs?: number;
  /** A probe through the uplink, tracked in place of the interface. */
  readonly probe?: Document;
}

/** Two routers that share the desk's gateway, each with a line to the hall. */
export function shared(of: Shared): Plan {
  const { net, on, prefix, whole } = addresses(false);
  const { advertMs, priorities, preempt = true, preemptDelayMs = 0, lower, probe } = of;
  const router = (n: 1 | 2) => {
    const track = n === 1 && lower ? [{ ...(probe ? { watch: "hall" } : { interface: "up" }), lower }] : [];
    const virtual = {
      id: 7,
      addresses: [net(1, 1)],
      priority: priorities[n - 1],
      advertMs,
      preempt,
      preemptDelayMs,
      track,
    };
    return {
      id: n === 1 ? "left" : "right",
      role: "router",
      profile: "metric-router",
      ...(of.bootMs && n === 1 ? { bootMs: of.bootMs } : {}),
      interfaces: [
        { name: "lan", addresses: [on(1, n + 1)], virtual: [virtual] },
        { name: "up", addresses: [on(n + 2, 1)] },
      ],
      routes: [{ to: whole, via: net(n + 2, 2) }],
      watches:
        n === 1 && probe
          ? [{ id: "hall", kind: "probe", target: net(3, 2), out: "up", via: net(3, 2), ...probe }]
          : [],
    };
  };
  return planOf({
    devices: [
      {
        id: "desk",
        role: "host",
        interfaces: [{ name: "eth0", addresses: [on(1, 10)] }],
        routes: [{ to: whole, via: net(1, 1) }],
      },
      router(1),
      router(2),
      {
        id: "hall",
        role: "router",
        profile: "metric-router",
        interfaces: [
          { name: "lan", addresses: [on(2, 1)] },
          { name: "a", addresses: [on(3, 2)] },
          { name: "b", addresses: [on(4, 2)] },
        ],
        // Back by whichever line is up: the left one first.
        routes: [
          { to: prefix(1), via: net(3, 1), metric: 10 },
          { to: prefix(1), via: net(4, 1), metric: 20 },
        ],
      },
      {
        id: "server",
        role: "host",
        interfaces: [{ name: "eth0", addresses: [on(2, 10)] }],
        routes: [{ to: whole, via: net(2, 1) }],
      },
    ],
    links: [
      { id: "lan", medium: "switch", ends: ["desk/eth0", "left/lan", "right/lan"] },
      { id: "line-a", medium: of.uplink ?? "cable", ends: ["left/up", "hall/a"] },
      { id: "line-b", medium: "cable", ends: ["right/up", "hall/b"] },
      { id: "hall-lan", medium: "switch", ends: ["hall/lan", "server/eth0"] },
    ],
    gateways: [
      { id: "left", at: "left/up" },
      { id: "right", at: "right/up" },
    ],
    flows: [{ id: "timetable", from: "desk", to: net(2, 10), protocol: "udp", port: 5000, rate }],
  });
}

/** Two routers that share an address on both their sides, and are Active on both or on none. */
export function together(advertMs: readonly [number, number], priorities: readonly [number, number]): Plan {
  const { net, on, prefix, whole } = addresses(false);
  const router = (n: 1 | 2) => ({
    id: n === 1 ? "left" : "right",
    role: "router",
    profile: "metric-router",
    interfaces: [1, 3].map((segment, s) => ({
      name: s === 0 ? "lan" : "core",
      addresses: [on(segment, n + 1)],
      virtual: [
        {
          ...{ id: segment, addresses: [net(segment, 1)], sync: "both" },
          ...{ priority: priorities[n - 1], advertMs: advertMs[s] },
        },
      ],
    })),
    routes: [{ to: prefix(2), via: net(3, 9) }],
  });
  return planOf({
    devices: [
      {
        id: "desk",
        role: "host",
        interfaces: [{ name: "eth0", addresses: [on(1, 10)] }],
        routes: [{ to: whole, via: net(1, 1) }],
      },
      router(1),
      router(2),
      {
        id: "hall",
        role: "router",
        profile: "metric-router",
        interfaces: [
          { name: "core", addresses: [on(3, 9)] },
          { name: "lan", addresses: [on(2, 1)] },
        ],
        routes: [{ to: prefix(1), via: net(3, 1) }],
      },
      {
        id: "server",
        role: "host",
        interfaces: [{ name: "eth0", addresses: [on(2, 10)] }],
        routes: [{ to: whole, via: net(2, 1) }],
      },
    ],
    links: [
      { id: "lan", medium: "switch", ends: ["desk/eth0", "left/lan", "right/lan"] },
      { id: "core", medium: "switch", ends: ["hall/core", "left/core", "right/core"] },
      { id: "hall-lan", medium: "switch", ends: ["hall/lan", "server/eth0"] },
    ],
    gateways: [
      { id: "left", at: "left/core" },
      { id: "right", at: "right/core" },
    ],
    flows: [{ id: "timetable", from: "desk", to: net(2, 10), protocol: "udp", port: 5000, rate }],
  });
}

/** A host with two gateways, each on its own port, sticky or not. */
export function keeping(base: "host" | "sticky-host", deadGatewayMs: Document): Plan {
  const { net, on, prefix, whole } = addresses(false);
  const gateway = (n: 1 | 2) => ({
    id: n === 1 ? "left" : "right",
    role: "router",
    profile: "metric-router",
    interfaces: [
      { name: "lan", addresses: [on(n, 1)] },
      { name: "up", addresses: [on(n + 2, 1)] },
    ],
    routes: [{ to: "10.20.9.9/32", via: net(n + 2, 9) }],
  });
  return planOf({
    profiles: [{ id: "keeper", base, deadGatewayMs }],
    devices: [
      {
        id: "desk",
        role: "host",
        profile: "keeper",
        interfaces: [
          { name: "e1", addresses: [on(1, 10)] },
          { name: "e2", addresses: [on(2, 10)] },
        ],
        routes: [
          { to: whole, via: net(1, 1), metric: 1 },
          { to: whole, via: net(2, 1), metric: 2 },
        ],
      },
      gateway(1),
      gateway(2),
      {
        id: "server",
        role: "host",
        interfaces: [
          { name: "a", addresses: [on(3, 9)] },
          { name: "b", addresses: [on(4, 9)] },
          { name: "own", kind: "loopback", addresses: ["10.20.9.9/32"] },
        ],
        routes: [
          { to: prefix(1), via: net(3, 1) },
          { to: prefix(2), via: net(4, 1) },
        ],
      },
    ],
    links: [
      { id: "lan-1", medium: "switch", ends: ["desk/e1", "left/lan"] },
      { id: "lan-2", medium: "switch", ends: ["desk/e2", "right/lan"] },
      { id: "up-1", medium: "switch", ends: ["left/up", "server/a"] },
      { id: "up-2", medium: "switch", ends: ["right/up", "server/b"] },
    ],
    gateways: [
      { id: "one", at: "desk/e1" },
      { id: "two", at: "desk/e2" },
    ],
    flows: [{ id: "timetable", from: "desk", to: "10.20.9.9", protocol: "udp", port: 5000, rate }],
  });
}

/** A firewall with two providers and the internet behind them: translation, zones, a probe through each. */
export function translated(probe: Document, failing: "cable" | "circuit"): Plan {
  const document: Document = {
    devices: [
      {
        id: "desk",
        role: "host",
        interfaces: [{ name: "eth0", addresses: ["10.20.1.10/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.20.1.1" }],
      },
      {
        id: "fw",
        role: "firewall",
        profile: "zone-firewall",
        interfaces: [
          { name: "lan", addresses: ["10.20.1.1/24"], zone: "inside" },
          { name: "north", addresses: ["198.51.100.2/30"], zone: "outside" },
          { name: "radio", addresses: ["192.0.2.2/30"], zone: "outside" },
        ],
        routes: [
          { to: "0.0.0.0/0", via: "198.51.100.1", out: "north", watch: "far" },
          { to: "0.0.0.0/0", via: "192.0.2.1", out: "radio", distance: 200 },
        ],
        sourceNat: [
          { out: "north", from: ["10.20.0.0/16"], to: "interface" },
          { out: "radio", from: ["10.20.0.0/16"], to: "interface" },
        ],
        policy: {
          rules: [{ from: ["inside"], to: ["outside"], action: "allow", protocol: "tcp", port: "443" }],
        },
        watches: [
          { id: "far", kind: "probe", target: "203.0.113.53", out: "north", via: "198.51.100.1", ...probe },
        ],
      },
      {
        id: "isp-north",
        role: "provider",
        interfaces: [
          { name: "cust", addresses: ["198.51.100.1/30"] },
          { name: "up", addresses: ["198.51.100.253/30"] },
        ],
        announces: ["198.51.100.0/24"],
      },
      {
        id: "isp-radio",
        role: "provider",
        interfaces: [
          { name: "cust", addresses: ["192.0.2.1/30"] },
          { name: "up", addresses: ["192.0.2.253/30"] },
        ],
        announces: ["192.0.2.0/24"],
      },
      {
        id: "net",
        role: "internet",
        interfaces: [
          { name: "north", addresses: ["198.51.100.254/30"] },
          { name: "radio", addresses: ["192.0.2.254/30"] },
        ],
      },
    ],
    links: [
      { id: "lan", medium: "switch", ends: ["desk/eth0", "fw/lan"] },
      { id: "north", medium: failing, ends: ["fw/north", "isp-north/cust"] },
      { id: "radio", medium: "circuit", ends: ["fw/radio", "isp-radio/cust"] },
      { id: "north-up", medium: "cable", ends: ["isp-north/up", "net/north"] },
      { id: "radio-up", medium: "cable", ends: ["isp-radio/up", "net/radio"] },
    ],
    flows: [
      { id: "web", from: "desk", to: "203.0.113.80", protocol: "tcp", port: 443, rate: 50 },
      { id: "mail", from: "desk", to: "203.0.113.80", protocol: "tcp", port: 25, rate: 50 },
    ],
  };
  return planOf(document);
}
