import { planOf } from "./plans.ts";

type Document = Record<string, unknown>;
export const ANY = "0.0.0.0/0";

interface Parts {
  r1?: Document;
  r2?: Document;
  routes1?: unknown[];
  routes2?: unknown[];
  desk?: Document;
  devices?: unknown[];
  links?: unknown[];
  profiles?: unknown[];
  expect?: Document;
  medium?: string;
  to?: string;
}

/** desk – r1 = (a | b) = r2 – server, with whatever a test wants otherwise. */
export function lab(parts: Parts = {}) {
  const host = (id: string, address: string, via: string) => ({
    id,
    role: "host",
    interfaces: [{ name: "e", addresses: [address] }],
    routes: [{ to: ANY, via }],
  });
  return planOf({
    devices: [
      { ...host("desk", "10.1.0.10/24", "10.1.0.1"), ...parts.desk },
      {
        id: "r1",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"] },
          { name: "a", addresses: ["192.0.2.1/30"] },
          { name: "b", addresses: ["192.0.2.5/30"] },
        ],
        routes: parts.routes1 ?? [{ to: "10.2.0.0/24", via: "192.0.2.2" }],
        ...parts.r1,
      },
      {
        id: "r2",
        role: "router",
        interfaces: [
          { name: "a", addresses: ["192.0.2.2/30"] },
          { name: "b", addresses: ["192.0.2.6/30"] },
          { name: "lan", addresses: ["10.2.0.1/24"] },
        ],
        routes: parts.routes2 ?? [{ to: "10.1.0.0/24", via: "192.0.2.1" }],
        ...parts.r2,
      },
      host("server", "10.2.0.10/24", "10.2.0.1"),
      ...(parts.devices ?? []),
    ],
    links: [
      { id: "la", medium: "switch", ends: ["desk/e", "r1/lan"] },
      { id: "a", medium: parts.medium ?? "cable", ends: ["r1/a", "r2/a"] },
      { id: "b", ends: ["r1/b", "r2/b"] },
      { id: "lb", medium: "switch", ends: ["server/e", "r2/lan"] },
      ...(parts.links ?? []),
    ],
    gateways: [
      { id: "way-a", at: "r1/a" },
      { id: "way-b", at: "r1/b" },
    ],
    flows: [{ id: "f", from: "desk", to: parts.to ?? "server", expect: parts.expect }],
    profiles: parts.profiles,
  });
}

export const primary = { to: "10.2.0.0/24", via: "192.0.2.2" };
export const floating = { to: "10.2.0.0/24", via: "192.0.2.6", distance: 20 };
export const back = { to: "10.1.0.0/24", via: "192.0.2.1" };
export const backFloating = { to: "10.1.0.0/24", via: "192.0.2.5", distance: 20 };
const lan = { name: "lan", addresses: ["10.1.0.1/24"] };
const ports = (...more: Document[]): Document[] => [
  lan,
  { name: "a", addresses: ["192.0.2.1/30"] },
  { name: "b", addresses: ["192.0.2.5/30"] },
  ...more,
];
const cloud = (tables: unknown[], address = "10.60.1.10/24") => ({
  devices: [
    {
      id: "cloud",
      role: "cloud",
      interfaces: [
        { name: "apps", addresses: ["10.60.1.1/24"] },
        { name: "guard", addresses: ["10.60.2.1/24"] },
      ],
      policyTables: tables,
    },
    { id: "app", role: "host", interfaces: [{ name: "e", addresses: [address] }] },
  ],
  links: [{ id: "apps", medium: "switch", ends: ["cloud/apps", "app/e"] }],
});
const divert = (on: string[]) => [
  { name: "t", match: { in: on }, lookup: "overlay", routes: [{ to: ANY, via: "10.60.2.10" }] },
];
const exit = (nat: unknown[]) =>
  lab({
    to: "203.0.113.9",
    routes1: [{ to: ANY, via: "198.51.100.1" }, primary],
    r1: { interfaces: ports({ name: "out", addresses: ["198.51.100.2/30"] }), sourceNat: nat },
    devices: [
      {
        id: "p",
        role: "provider",
        interfaces: [
          { name: "c", addresses: ["198.51.100.1/30"] },
          { name: "i", addresses: ["203.0.113.129/30"] },
        ],
        announces: ["198.51.100.0/24"],
      },
      { id: "world", role: "internet", interfaces: [{ name: "p", addresses: ["203.0.113.130/30"] }] },
    ],
    links: [
      { id: "up", ends: ["r1/out", "p/c"] },
      { id: "far", ends: ["p/i", "world/p"] },
    ],
  });
const watched = (more: Document) => ({
  r1: {
    watches: [
      {
        id: "w",
        kind: "probe",
        target: "10.2.0.10",
        intervalMs: 1000,
        timeoutMs: 500,
        failAfter: 2,
        ...more,
      },
    ],
  },
  routes1: [{ ...primary, watch: "w" }, floating],
  routes2: [back, backFloating],
  medium: "circuit",
});

const twoDefaults = [
  { to: ANY, via: "192.0.2.2" },
  { to: ANY, via: "192.0.2.6" },
];
const far = { id: "far", kind: "probe", target: "10.2.0.1" };

/** A server that answers past the firewall by which it is reached: pc – r1 – fw – r2 – srv, and back r2 – r1. */
export function halfSeen(policy: Document | null, protocol: string) {
  const port = (name: string, address: string) => ({ name, addresses: [address] });
  return planOf({
    devices: [
      {
        id: "pc",
        role: "host",
        interfaces: [port("e", "10.1.0.9/24")],
        routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
      },
      {
        id: "r1",
        role: "router",
        interfaces: [port("lan", "10.1.0.1/24"), port("f", "10.2.0.1/30"), port("r", "10.3.0.1/30")],
        routes: [{ to: "10.9.0.0/24", via: "10.2.0.2" }],
      },
      {
        id: "fw",
        role: "firewall",
        interfaces: [
          { ...port("in", "10.2.0.2/30"), zone: "in" },
          { ...port("out", "10.4.0.1/30"), zone: "out" },
        ],
        routes: [{ to: "10.9.0.0/24", via: "10.4.0.2" }],
        ...(policy ? { policy } : {}),
      },
      {
        id: "r2",
        role: "router",
        interfaces: [port("f", "10.4.0.2/30"), port("r", "10.3.0.2/30"), port("lan", "10.9.0.1/24")],
        routes: [{ to: "10.1.0.0/24", via: "10.3.0.1" }],
      },
      {
        id: "srv",
        role: "host",
        interfaces: [port("e", "10.9.0.9/24")],
        routes: [{ to: "0.0.0.0/0", via: "10.9.0.1" }],
      },
    ],
    links: [
      { id: "l1", ends: ["pc/e", "r1/lan"] },
      { id: "l2", ends: ["r1/f", "fw/in"] },
      { id: "l3", ends: ["fw/out", "r2/f"] },
      { id: "l4", ends: ["r1/r", "r2/r"] },
      { id: "l5", ends: ["r2/lan", "srv/e"] },
    ],
    flows: [{ id: "f", from: "pc", to: "srv", protocol, ...(protocol === "icmp" ? {} : { port: 443 }) }],
  });
}

const learnedTwin = {
  ...{ to: "10.2.0.0/24", via: "192.0.2.6", protocol: "ospf", distance: 110 },
  lostAfterMs: 40_000,
};

/** Two routers with a LAN each. */
function routersOf(second: string) {
  return [
    { id: "ra", role: "router", interfaces: [{ name: "lan", addresses: ["10.1.0.1/24"] }] },
    { id: "rb", role: "router", interfaces: [{ name: "lan", addresses: [`${second}/24`] }] },
  ];
}

function onOneSwitch(second: string) {
  return planOf({
    devices: routersOf(second),
    links: [{ id: "lan", medium: "switch", ends: ["ra/lan", "rb/lan"] }],
  });
}

function undrawn(links: Document[]) {
  return planOf({ assume: { unlinked: "up" }, devices: routersOf("10.1.0.2"), links });
}

/** A router on two segments, on one of which another one is Active. */
function syncedPair(sync: string | null) {
  const virtual = (id: number, priority: number, more: Document = {}) => [
    { id, addresses: [`10.0.${id}.1`], priority, ...more },
  ];
  const together = sync ? { sync } : {};
  return planOf({
    devices: [
      {
        id: "ra",
        role: "router",
        interfaces: [
          { name: "one", addresses: ["10.0.1.2/24"], virtual: virtual(1, 100, together) },
          { name: "two", addresses: ["10.0.2.2/24"], virtual: virtual(2, 100, together) },
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
}

/** An edge with two lines that carry both families; `six` whether both have an IPv6 default. */
function dualStack(six: boolean) {
  const far = (id: string, n: number) => ({
    id,
    role: "router",
    interfaces: [{ name: "e", addresses: [`10.0.${n}.2/30`, `2001:db8:${n}::2/64`] }],
  });
  return planOf({
    devices: [
      {
        id: "edge",
        role: "router",
        interfaces: [
          { name: "a", addresses: ["10.0.1.1/30", "2001:db8:1::1/64"] },
          { name: "b", addresses: ["10.0.2.1/30", "2001:db8:2::1/64"] },
        ],
        routes: [
          { to: ANY, via: "10.0.1.2" },
          { to: ANY, via: "10.0.2.2", distance: 50 },
          { to: "::/0", via: "2001:db8:1::2" },
          ...(six ? [{ to: "::/0", via: "2001:db8:2::2", distance: 50 }] : []),
        ],
      },
      far("a", 1),
      far("b", 2),
    ],
    links: [
      { id: "a", ends: ["edge/a", "a/e"] },
      { id: "b", ends: ["edge/b", "b/e"] },
    ],
  });
}

/** Each check with a plan that trips it and a near twin that does not. The named mistakes are in tests/cases.test.ts. */
export const mistakes: [code: string, trips: ReturnType<typeof lab>, twin: ReturnType<typeof lab>][] = [
  ["flow-fails", lab({ routes1: [] }), lab()],
  ["next-hop-unresolved", lab({ routes1: [primary, { to: "10.5.0.0/24", via: "198.18.0.1" }] }), lab()],
  [
    "next-hop-invalid",
    lab({ routes1: [primary, { to: "10.5.0.0/24", via: "192.0.2.1" }] }),
    lab({ routes1: [primary, { to: "10.5.0.0/24", via: "192.0.2.2" }] }),
  ],
  ["next-hop-invalid", lab({ routes1: [primary, { to: "10.5.0.0/24", via: "192.0.2.3" }] }), lab()],
  [
    "next-hop-circular",
    lab({ routes1: [primary, { to: "10.5.0.0/24", via: "10.5.0.9" }] }),
    lab({ routes1: [primary, { to: "10.5.0.0/24", via: "10.2.0.9" }] }),
  ],
  [
    "next-hop-silent",
    lab({ routes1: [primary, { to: "10.5.0.0/24", via: "10.1.0.77" }] }),
    lab({ routes1: [primary, { to: "10.5.0.0/24", via: "10.1.0.10" }] }),
  ],
  [
    "interface-next-hop",
    lab({ routes1: [primary, { to: "10.5.0.0/24", out: "a" }] }),
    lab({ routes1: [primary, { to: "10.5.0.0/24", out: "a", via: "192.0.2.2" }] }),
  ],
  [
    "floating-not-higher",
    lab({ routes1: [primary, { ...floating, distance: 1 }] }),
    lab({ routes1: [primary, floating] }),
  ],
  [
    "floating-never-takes-over",
    lab({ routes1: [primary, floating], medium: "circuit" }),
    lab({ routes1: [primary, floating] }),
  ],
  [
    "failover-on-carrier",
    lab({
      r1: { profile: "metric-router" },
      routes1: [primary, { ...floating, distance: undefined, metric: 20 }],
    }),
    lab({ routes1: [primary, floating] }),
  ],
  [
    "failover-on-carrier",
    lab({
      r1: { profile: "metric-router" },
      routes1: [primary, { ...floating, distance: undefined, metric: 20 }],
    }),
    lab({
      r1: { profile: "keeps" },
      routes1: [primary, { ...floating, distance: undefined, metric: 20 }],
      profiles: [{ id: "keeps", base: "metric-router", carrierLoss: "keep" }],
    }),
  ],
  [
    "backup-shares-fate",
    lab({
      r1: {
        interfaces: [
          lan,
          { name: "a", addresses: ["192.0.2.1/30", "198.51.100.1/30"] },
          { name: "b", addresses: ["192.0.2.5/30"] },
        ],
      },
      routes1: [primary, { to: "10.2.0.0/24", via: "198.51.100.2", distance: 20 }],
    }),
    lab(),
  ],
  [
    "backup-no-way-back",
    lab({ routes1: [primary, floating], routes2: [back] }),
    lab({ routes1: [primary, floating], routes2: [back, backFloating] }),
  ],
  [
    "failover-one-direction",
    lab({ ...watched({ target: "192.0.2.2", out: "a", via: "192.0.2.2" }), routes2: [back, backFloating] }),
    lab({ routes1: [primary, floating], routes2: [back, backFloating] }),
  ],
  ["watch-flaps", lab(watched({})), lab(watched({ target: "192.0.2.2", out: "a", via: "192.0.2.2" }))],
  ["missing-return-route", lab({ routes2: [] }), lab()],
  ["asymmetric-path", lab({ routes2: [{ to: "10.1.0.0/24", via: "192.0.2.5" }] }), lab()],
  [
    "facing-defaults",
    lab({
      routes1: [primary, { to: ANY, via: "192.0.2.2" }],
      routes2: [back, { to: ANY, via: "192.0.2.1" }],
    }),
    lab({ routes1: [primary, { to: ANY, via: "192.0.2.2" }] }),
  ],
  [
    "summary-without-discard",
    lab({
      routes1: [{ to: "10.2.0.0/16", via: "192.0.2.2" }],
      routes2: [back, { to: ANY, via: "192.0.2.1" }],
    }),
    lab({
      routes1: [{ to: "10.2.0.0/16", via: "192.0.2.2" }],
      routes2: [back, { to: ANY, via: "192.0.2.1" }, { to: "10.2.0.0/16", discard: "drop" }],
    }),
  ],
  [
    "route-never-used",
    lab({ routes1: [primary, { to: "10.2.0.0/16", via: "192.0.2.2" }] }),
    lab({ routes1: [primary, { to: "10.2.0.0/16", via: "192.0.2.6" }] }),
  ],
  [
    "routes-replaceable",
    lab({ routes1: [primary, { to: "10.2.1.0/24", via: "192.0.2.2" }] }),
    lab({ routes1: [primary, { to: "10.2.1.0/24", via: "192.0.2.6" }] }),
  ],
  ["untranslated-source", exit([]), exit([{ out: "out", from: ["10.1.0.0/24"], to: "interface" }])],
  [
    "translation-missing",
    exit([{ out: "out", from: ["10.9.0.0/24"], to: "interface" }]),
    exit([{ out: "out", to: "interface" }]),
  ],
  [
    "forwarding-off",
    lab({ r1: { forwarding: { ipv4: false } } }),
    lab({ r1: { forwarding: { ipv4: true } } }),
  ],
  ["static-over-connected", lab({ routes1: [primary, { to: "10.1.0.0/24", via: "192.0.2.2" }] }), lab()],
  [
    "overlapping-subnets",
    lab({ r1: { interfaces: ports({ name: "c", addresses: ["10.1.0.129/25"] }) } }),
    lab({ r1: { interfaces: ports({ name: "c", addresses: ["10.1.1.1/24"] }) } }),
  ],
  ["gateway-outside-subnet", lab({ desk: { routes: [{ to: ANY, via: "10.3.0.1" }] } }), lab()],
  [
    "sticky-gateways",
    lab({
      desk: {
        profile: "sticky-host",
        routes: [
          { to: ANY, via: "10.1.0.1", metric: 1 },
          { to: ANY, via: "10.1.0.2", metric: 2 },
        ],
      },
    }),
    lab({
      desk: {
        routes: [
          { to: ANY, via: "10.1.0.1", metric: 1 },
          { to: ANY, via: "10.1.0.2", metric: 2 },
        ],
      },
    }),
  ],
  ["cloud-table-on-appliance", lab(cloud(divert(["apps", "guard"]))), lab(cloud(divert(["apps"])))],
  ["cloud-table-unattached", lab(cloud(divert([]))), lab(cloud(divert(["apps"])))],
  ["reserved-address", lab(cloud([], "10.60.1.3/24")), lab(cloud([], "10.60.1.4/24"))],
  [
    "stale-gateway",
    lab({
      r1: {
        interfaces: [
          lan,
          { name: "a", addresses: ["192.0.2.1/30"], gatewayFrom: "dhcp" },
          { name: "b", addresses: ["192.0.2.5/30"] },
        ],
      },
    }),
    lab(),
  ],
  ["carrier-order", lab({ expect: { carriers: ["way-b"] } }), lab({ expect: { carriers: ["way-a"] } })],
  [
    "carrier-order",
    lab({ expect: { carriers: ["way-a", "way-b"] } }),
    lab({
      expect: { carriers: ["way-a", "way-b"] },
      routes1: [primary, floating],
      routes2: [back, backFloating],
    }),
  ],
  [
    "outage-too-long",
    lab({ expect: { maxOutageMs: 50 }, routes1: [primary, floating], routes2: [back, backFloating] }),
    lab({ expect: { maxOutageMs: 500 }, routes1: [primary, floating], routes2: [back, backFloating] }),
  ],
  [
    "device-bypassed",
    lab({ expect: { through: ["server", "r1"] }, routes1: [primary], to: "10.2.0.1" }),
    lab({ expect: { through: ["r1", "r2"] } }),
  ],
  [
    "unintended-sharing",
    lab({
      routes1: twoDefaults,
      r1: { interfaces: [...ports().slice(0, 2), { ...ports()[2], kind: "management" }] },
    }),
    lab({ routes1: twoDefaults }),
  ],
  [
    "watch-needs-itself",
    lab({ routes1: [{ ...primary, watch: "far" }], r1: { watches: [far] } }),
    lab({
      routes1: [{ ...primary, watch: "far" }],
      r1: { watches: [{ ...far, out: "a", via: "192.0.2.2" }] },
    }),
  ],
  [
    "distance-tie",
    lab({ routes1: [{ ...primary, distance: 110 }], r1: { learned: [learnedTwin] } }),
    lab({ routes1: [primary], r1: { learned: [learnedTwin] } }),
  ],
  ["duplicate-address", onOneSwitch("10.1.0.1"), onOneSwitch("10.1.0.2")],
  ["segment-not-drawn", undrawn([]), undrawn([{ id: "lan", medium: "switch", ends: ["ra/lan", "rb/lan"] }])],
  ["sync-keeps-backup", syncedPair("both"), syncedPair(null)],
  ["family-without-backup", dualStack(false), dualStack(true)],
  ["asymmetric-firewall", halfSeen({ default: "allow" }, "tcp"), lab()],
];
