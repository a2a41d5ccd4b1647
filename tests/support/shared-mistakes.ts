import type { Plan } from "../../core/plan/index.ts";
import { planOf } from "./plans.ts";
import { bundleOfTwo, type Gateways, pairOfFirewalls, twoGateways } from "./shared-plans.ts";

const ANY = "0.0.0.0/0";
export const tracking = (lower: number, more: Gateways = {}) =>
  twoGateways({ a: { track: [{ interface: "wan", lower }] }, ...more });
export const learnt = (preemptDelayMs: number) =>
  twoGateways({
    a: { preemptDelayMs },
    ra: {
      routes: [],
      learned: [{ to: ANY, via: "198.51.100.1", protocol: "bgp", lostAfterMs: 1000, backAfterMs: 20_000 }],
    },
  });
export const probe = (out?: string) =>
  twoGateways({
    a: { track: [{ watch: "far", lower: 30 }] },
    ra: {
      watches: [{ id: "far", kind: "probe", target: "203.0.113.80", ...(out ? { out } : {}) }],
      routes: [
        { to: ANY, via: "198.51.100.1" },
        { to: ANY, via: "172.20.16.3", distance: 50 },
      ],
    },
  });
export const firewalls = (first: number, second: number) =>
  planOf({
    devices: [
      {
        id: "in",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
        routes: [{ to: ANY, via: "10.1.0.1" }],
      },
      ...[1, 2].map((n) => ({
        id: `fw${n}`,
        role: "firewall",
        interfaces: [
          {
            name: "in",
            zone: "in",
            addresses: [`10.1.0.${n + 1}/24`],
            virtual: [{ id: 1, addresses: ["10.1.0.1"], priority: n === 1 ? first : 100 }],
          },
          {
            name: "out",
            zone: "out",
            addresses: [`10.2.0.${n + 1}/24`],
            virtual: [{ id: 2, addresses: ["10.2.0.1"], priority: n === 1 ? second : 100 }],
          },
        ],
        policy: { default: "deny", rules: [{ from: ["in"], to: ["out"], action: "allow" }] },
      })),
      {
        id: "out",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.2.0.10/24"] }],
        routes: [{ to: ANY, via: "10.2.0.1" }],
      },
    ],
    links: [
      { id: "la", medium: "switch", ends: ["in/e", "fw1/in", "fw2/in"] },
      { id: "lb", medium: "switch", ends: ["out/e", "fw1/out", "fw2/out"] },
    ],
    flows: [{ id: "f", from: "in", to: "out", protocol: "tcp", port: 22 }],
  });
/** The second member of r1's bundle leads to r2, or to another router. */
const stray = (to: string) => {
  const plan = bundleOfTwo();
  return planOf({
    ...plan,
    devices: [...plan.devices, { id: "r3", role: "router", interfaces: [{ name: "x" }] }],
    links: plan.links.map((link) => (link.id === "b2" ? { ...link, ends: ["r1/p2", to] } : link)),
  });
};
const tags = (right: number) =>
  planOf({
    devices: [10, right].map((vlan, n) => ({
      id: `r${n}`,
      role: "router",
      interfaces: [{ name: "e" }, { name: "e.v", parent: "e", vlan, addresses: [`192.0.2.${n + 1}/30`] }],
    })),
    links: [
      { id: "trunk", ends: ["r0/e", "r1/e"] },
      { id: "tagged", ends: ["r0/e.v", "r1/e.v"] },
    ],
  });
/** A floating default beside ra's own, by another line to the same provider; what the two lines ride on. */
const twoLines = (second: Record<string, unknown>, more: Record<string, unknown> = {}) => {
  const plan = twoGateways({ a: null, b: null });
  const other = { name: "two", addresses: ["192.0.2.1/30"] };
  return planOf({
    ...plan,
    ...more,
    devices: plan.devices.map((device) => {
      if (device.id === "ra")
        return {
          ...device,
          interfaces: [...device.interfaces, other],
          routes: [...device.routes, { to: ANY, via: "192.0.2.2", distance: 20 }],
        };
      const far = { name: "two", addresses: ["192.0.2.2/30"] };
      return device.id === "rb" ? { ...device, interfaces: [...device.interfaces, far] } : device;
    }),
    links: [
      ...plan.links.map((link) => (link.id === "wa" ? { ...link, over: ["duct"] } : link)),
      { id: "wc", ends: ["ra/two", "rb/two"], ...second },
      { id: "duct" },
    ],
  });
};
const small = (mbps: number) =>
  tracking(30, {
    flow: { mbps: 20 },
    plan: {
      gateways: [
        { id: "left", at: "ra/wan", mbps: 100 },
        { id: "right", at: "rb/wan", mbps },
      ],
    },
  });
const providers = (to: string) =>
  planOf({
    devices: [
      {
        id: "r",
        role: "router",
        interfaces: [
          { name: "a", addresses: ["198.51.100.2/30"] },
          { name: "b", addresses: ["203.0.113.2/30"] },
        ],
        routes: [{ to: ANY, via: "198.51.100.1" }],
        sourceNat: [{ out: "a", to }],
      },
      ...["198.51.100.0/24", "203.0.113.0/24"].map((announces, n) => ({
        id: `p${n}`,
        role: "provider",
        interfaces: [{ name: "c", addresses: [announces.replace("0/24", "1/30")] }],
        announces: [announces],
      })),
    ],
    links: [
      { id: "a", ends: ["r/a", "p0/c"] },
      { id: "b", ends: ["r/b", "p1/c"] },
    ],
  });

/** A plan of each mistake, and one like it without. */
export const sharedTwins: [string, Plan, Plan][] = [
  ["virtual-members-differ", twoGateways({ b: { addresses: ["172.20.16.9"] } }), twoGateways()],
  ["virtual-equal-priorities", twoGateways({ b: { priority: 110 } }), twoGateways()],
  [
    "virtual-outside-subnet",
    twoGateways({ a: { addresses: ["172.20.17.1"] }, b: { addresses: ["172.20.17.1"] } }),
    twoGateways(),
  ],
  ["virtual-untracked", twoGateways(), tracking(30)],
  ["virtual-lowering-too-small", tracking(10), tracking(11)],
  [
    "virtual-tracking-without-preempt",
    tracking(30, { b: { preempt: false } }),
    tracking(30, { b: { preempt: true } }),
  ],
  ["virtual-probe-through-backup", probe(), probe("wan")],
  ["virtual-split", firewalls(110, 90), firewalls(110, 110)],
  ["virtual-replies-elsewhere", firewalls(110, 90), firewalls(110, 110)],
  ["virtual-parts-silently", twoGateways({ lan: { medium: "circuit" } }), twoGateways()],
  ["returns-too-early", learnt(0), learnt(30_000)],
  ["pair-differs", pairOfFirewalls({ b: { routes: [] } }), pairOfFirewalls()],
  [
    "pair-splits",
    pairOfFirewalls(),
    pairOfFirewalls({
      a: { interfaces: heartbeats("1") },
      b: { interfaces: heartbeats("2") },
      links: [{ id: "hb2", ends: ["fwa/beat2", "fwb/beat2"] }],
      pair: { heartbeats: ["hb", "hb2"] },
    }),
  ],
  ["backup-shares-fate", twoLines({ over: ["duct"] }), twoLines({})],
  [
    "backup-shares-fate",
    twoLines({}, { risks: [{ id: "room", of: ["link:duct", "link:wc"] }] }),
    twoLines({}, { risks: [{ id: "room", of: ["link:duct", "link:sl"] }] }),
  ],
  ["bundle-ends-differ", stray("r3/x"), stray("r2/p2")],
  ["bundle-members-differ", bundleOfTwo({ media: ["cable", "circuit"] }), bundleOfTwo()],
  ["bundle-members-differ", bundleOfTwo({ links: [{ mbps: 100 }, { mbps: 1000 }] }), bundleOfTwo()],
  ["tag-one-end", tags(20), tags(10)],
  ["backup-too-small", small(10), small(20)],
  [
    "sessions-break",
    pairOfFirewalls({ flow: { expect: { survive: 1 } } }),
    pairOfFirewalls({ flow: { expect: { survive: 1 } }, pair: { syncStates: true } }),
  ],
  ["translated-to-the-other-provider", providers("203.0.113.9"), providers("198.51.100.9")],
];

function heartbeats(n: string) {
  return [
    { name: "inside", addresses: ["172.20.16.1/24"], zone: "inside" },
    { name: "outside", addresses: ["198.51.100.2/29"], zone: "outside" },
    { name: "beat", addresses: [`10.0.0.${n}/30`] },
    { name: "beat2", addresses: [`10.0.1.${n}/30`] },
  ];
}
