import { describe, expect, it } from "vitest";
import { demoPlan, engineOf, planOf } from "../../tests/support/plans.ts";
import { sharedTwins } from "../../tests/support/shared-mistakes.ts";
import { applyEdit } from "../plan/index.ts";
import { differenceOf } from "../reachability/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { checks, findAll } from "./index.ts";

type Document = Record<string, unknown>;
const ANY = "0.0.0.0/0";

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
function lab(parts: Parts = {}) {
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

const codes = (plan: ReturnType<typeof planOf>) =>
  findAll(NetworkModel.compile(plan), { fixes: false }).map((finding) => finding.code);

const primary = { to: "10.2.0.0/24", via: "192.0.2.2" };
const floating = { to: "10.2.0.0/24", via: "192.0.2.6", distance: 20 };
const back = { to: "10.1.0.0/24", via: "192.0.2.1" };
const backFloating = { to: "10.1.0.0/24", via: "192.0.2.5", distance: 20 };
const lan = { name: "lan", addresses: ["10.1.0.1/24"] };
const ports = (...more: unknown[]) => [
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

/** Each check with a plan that trips it and a near twin that does not. The named mistakes are in tests/cases.test.ts. */
const twins: [code: string, trips: ReturnType<typeof lab>, twin: ReturnType<typeof lab>][] = [
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
];

describe("every check", () => {
  it.each(twins.map(([code, trips, twin], i) => [`${code} ${i}`, code, trips, twin] as const))(
    "%s: trips, and its near twin does not",
    (_name, code, trips, twin) => {
      expect(codes(trips)).toContain(code);
      expect(codes(twin)).not.toContain(code);
    },
  );

  it("asymmetric-firewall: a stateful device that replies pass and the flow does not", () => {
    const plan = (via: string) =>
      planOf({
        devices: [
          {
            id: "desk",
            role: "host",
            interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
            routes: [{ to: ANY, via: "10.1.0.1" }],
          },
          {
            id: "r1",
            role: "router",
            interfaces: [
              { name: "lan", addresses: ["10.1.0.1/24"] },
              { name: "x", addresses: ["10.9.0.1/24"] },
            ],
            routes: [{ to: "10.2.0.0/24", via: "10.9.0.2" }],
          },
          {
            id: "fw",
            role: "firewall",
            interfaces: [{ name: "x", addresses: ["10.9.0.3/24"] }],
            routes: [{ to: "10.1.0.0/24", via: "10.9.0.1" }],
            policy: { default: "deny", sameZone: "deny", rules: [] },
          },
          {
            id: "r2",
            role: "router",
            interfaces: [
              { name: "x", addresses: ["10.9.0.2/24"] },
              { name: "lan", addresses: ["10.2.0.1/24"] },
            ],
            routes: [{ to: "10.1.0.0/24", via }],
          },
          {
            id: "server",
            role: "host",
            interfaces: [{ name: "e", addresses: ["10.2.0.10/24"] }],
            routes: [{ to: ANY, via: "10.2.0.1" }],
          },
        ],
        links: [
          { id: "la", medium: "switch", ends: ["desk/e", "r1/lan"] },
          { id: "x", medium: "switch", ends: ["r1/x", "r2/x", "fw/x"] },
          { id: "lb", medium: "switch", ends: ["server/e", "r2/lan"] },
        ],
        flows: [{ id: "f", from: "desk", to: "server" }],
      });
    expect(codes(plan("10.9.0.3"))).toContain("asymmetric-firewall");
    expect(codes(plan("10.9.0.1"))).not.toContain("asymmetric-firewall");
  });

  it("single-point-of-failure: told with its elements where a flow must survive one, gone with a second way", () => {
    // r1 and r2 stay single points themselves; the twin asks for nothing.
    const [finding] = findAll(NetworkModel.compile(lab({ expect: { survive: 1 } })), { fixes: false }).filter(
      (f) => f.code === "single-point-of-failure",
    );
    expect(finding.text).toContain("link:a");
    const withBackup = lab({
      expect: { survive: 1 },
      routes1: [primary, floating],
      routes2: [back, backFloating],
    });
    const [left] = findAll(NetworkModel.compile(withBackup), { fixes: false }).filter(
      (f) => f.code === "single-point-of-failure",
    );
    expect(left.text).not.toContain("link:a");
    expect(codes(lab())).not.toContain("single-point-of-failure");
  });

  it("tunnel-through-itself: where the way to the far end leads into the tunnel", () => {
    const tunnel = (more: unknown[]) =>
      planOf({
        devices: [
          {
            id: "r1",
            role: "router",
            interfaces: [
              { name: "w", addresses: ["192.0.2.1/30"] },
              { name: "t", kind: "tunnel", addresses: ["10.9.0.0/31"], underlay: { to: "192.0.2.2" } },
            ],
            routes: more,
          },
          {
            id: "r2",
            role: "router",
            interfaces: [
              { name: "w", addresses: ["192.0.2.2/30"] },
              { name: "t", kind: "tunnel", addresses: ["10.9.0.1/31"], underlay: { to: "192.0.2.1" } },
            ],
          },
        ],
        links: [{ id: "w", ends: ["r1/w", "r2/w"] }],
      });
    expect(codes(tunnel([{ to: "192.0.2.2/32", out: "t" }]))).toContain("tunnel-through-itself");
    expect(codes(tunnel([]))).not.toContain("tunnel-through-itself");
  });

  it("has a code of its own, and is told by a test here or among the named mistakes", () => {
    const all = checks.map((check) => check.code);
    expect(new Set(all).size).toBe(all.length);
    const here = new Set([
      ...[...twins, ...sharedTwins].map(([code]) => code),
      "asymmetric-firewall",
      "single-point-of-failure",
      "tunnel-through-itself",
    ]);
    const elsewhere = [
      "link-local-without-interface",
      "second-default-refused",
      "watch-through-backup",
      "watch-first-hop-only",
      "pinned-target-used",
      "bfd-one-end",
      "bfd-timers-differ",
      "summary-swallows",
      "denied-between-zones",
      // In expectations/denied.test.ts.
      "flow-not-denied",
      // In trust.test.ts.
      "route-unusable",
      "unintended-sharing",
      "watch-needs-itself",
    ];
    expect(all.filter((code) => !here.has(code) && !elsewhere.includes(code))).toEqual([]);
  });
});

describe("fixes", () => {
  it("that write routes shorter change nothing for any address, and put the summary in before the rest comes out", () => {
    const plan = lab({ routes1: [primary, { to: "10.2.1.0/24", via: "192.0.2.2" }] });
    const finding = findAll(NetworkModel.compile(plan)).find((f) => f.code === "routes-replaceable");
    const changes = finding?.fixes[0]?.edit.changes ?? [];
    expect(changes.map((change) => (change.after ? "in" : "out"))).toEqual(["in", "out", "out"]);
    const outcome = finding && applyEdit(plan, finding.fixes[0].edit);
    if (!outcome?.ok) throw new Error("the fix does not apply");
    const side = (p: typeof plan) => ({ world: engineOf(p).healthy.world, gateways: [] });
    expect(differenceOf(side(plan), side(outcome.plan))).toEqual([]);
    expect(outcome.plan.devices[1].routes.map((route) => route.to)).toEqual(["10.2.0.0/23"]);
  });

  it("of the demo mend the unnoticed circuit, the missing return path and the facing defaults, each alone and all together", () => {
    let plan = demoPlan("marrow-bay");
    for (const code of ["watch-first-hop-only", "missing-return-route", "facing-defaults"]) {
      const finding = findAll(NetworkModel.compile(plan)).find((f) => f.code === code);
      expect(finding?.fixes.length).toBeGreaterThan(0);
      const outcome = finding && applyEdit(plan, finding.fixes[0].edit);
      if (!outcome?.ok) throw new Error(code);
      plan = outcome.plan;
    }
    const left = codes(plan);
    for (const code of ["watch-first-hop-only", "missing-return-route", "facing-defaults", "flow-fails"])
      expect(left).not.toContain(code);
  });
});
