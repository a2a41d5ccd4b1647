import type { Plan } from "../../core/plan/index.ts";
import { planOf } from "./plans.ts";

export type Loose = Record<string, unknown>;
const ANY = "0.0.0.0/0";

const host = (id: string, address: string, via: string) => ({
  id,
  role: "host",
  interfaces: [{ name: "eth0", addresses: [address] }],
  routes: [{ to: ANY, via }],
});

export interface Gateways {
  /** What the virtual routers of ra and rb say besides their id and address; null for none. */
  a?: Loose | null;
  b?: Loose | null;
  /** What the devices, the interfaces that lead out, the links and the flow say besides. */
  ra?: Loose;
  rb?: Loose;
  isp?: Loose;
  wan?: Loose;
  lan?: Loose;
  flow?: Loose;
  plan?: Loose;
}

/**
 * A host behind two routers of which one carries: pc – (ra | rb) – isp – srv. The virtual address is 172.20.16.1; ra has
 * priority 110, rb 100, both advertise every second.
 */
export function twoGateways(parts: Gateways = {}): Plan {
  const router = (id: string, n: number, priority: number, virtual: Loose | null, more: Loose = {}) => ({
    id,
    role: "router",
    interfaces: [
      {
        name: "lan",
        addresses: [`172.20.16.${n}/24`],
        ...(virtual ? { virtual: [{ id: 16, addresses: ["172.20.16.1"], priority, ...virtual }] } : {}),
      },
      { name: "wan", addresses: [`198.51.100.${n === 2 ? 2 : 6}/30`] },
    ],
    routes: [{ to: ANY, via: `198.51.100.${n === 2 ? 1 : 5}` }],
    ...more,
  });
  return planOf({
    devices: [
      host("pc", "172.20.16.10/24", "172.20.16.1"),
      router("ra", 2, 110, parts.a === undefined ? {} : parts.a, parts.ra),
      router("rb", 3, 100, parts.b === undefined ? {} : parts.b, parts.rb),
      {
        id: "isp",
        role: "router",
        interfaces: [
          { name: "a", addresses: ["198.51.100.1/30"] },
          { name: "b", addresses: ["198.51.100.5/30"] },
          { name: "srv", addresses: ["203.0.113.1/24"] },
        ],
        routes: [
          { to: "172.20.16.0/24", via: "198.51.100.2" },
          { to: "172.20.16.0/24", via: "198.51.100.6", distance: 10 },
        ],
        ...parts.isp,
      },
      host("srv", "203.0.113.80/24", "203.0.113.1"),
    ],
    links: [
      { id: "lan", medium: "switch", ends: ["pc/eth0", "ra/lan", "rb/lan"], ...parts.lan },
      { id: "wa", ends: ["ra/wan", "isp/a"], ...parts.wan },
      { id: "wb", ends: ["rb/wan", "isp/b"] },
      { id: "sl", ends: ["isp/srv", "srv/eth0"] },
    ],
    gateways: [
      { id: "left", at: "ra/wan" },
      { id: "right", at: "rb/wan" },
    ],
    flows: [{ id: "f", from: "pc", to: "srv", protocol: "tcp", port: 443, ...parts.flow }],
    ...parts.plan,
  });
}

export interface Bundled {
  /** What the bundles at each end say besides. */
  left?: Loose;
  right?: Loose;
  /** The media of the two members' links. */
  media?: readonly [string, string];
  links?: readonly [Loose, Loose];
  plan?: Loose;
}

/** Two hosts behind two routers joined by a bundle of two: h1 – r1 = r2 – h2. */
export function bundleOfTwo(parts: Bundled = {}): Plan {
  const [first, second] = parts.media ?? ["cable", "cable"];
  const bundle = (n: number, more: Loose = {}) => [
    { name: "p1" },
    { name: "p2" },
    { name: "agg", kind: "bundle", members: ["p1", "p2"], addresses: [`192.0.2.${n}/30`], ...more },
  ];
  return planOf({
    devices: [
      host("h1", "10.1.0.10/24", "10.1.0.1"),
      {
        id: "r1",
        role: "router",
        interfaces: [{ name: "lan", addresses: ["10.1.0.1/24"] }, ...bundle(1, parts.left)],
        routes: [{ to: "10.2.0.0/24", via: "192.0.2.2" }],
      },
      {
        id: "r2",
        role: "router",
        interfaces: [{ name: "lan", addresses: ["10.2.0.1/24"] }, ...bundle(2, parts.right)],
        routes: [{ to: "10.1.0.0/24", via: "192.0.2.1" }],
      },
      host("h2", "10.2.0.10/24", "10.2.0.1"),
    ],
    links: [
      { id: "l1", ends: ["h1/eth0", "r1/lan"] },
      { id: "b1", medium: first, ends: ["r1/p1", "r2/p1"], ...parts.links?.[0] },
      { id: "b2", medium: second, ends: ["r1/p2", "r2/p2"], ...parts.links?.[1] },
      { id: "l2", ends: ["h2/eth0", "r2/lan"] },
    ],
    flows: [{ id: "f", from: "h1", to: "h2" }],
    ...parts.plan,
  });
}

export interface Paired {
  pair?: Loose;
  a?: Loose;
  b?: Loose;
  links?: readonly Loose[];
  flow?: Loose;
  plan?: Loose;
}

/** A host behind a pair of firewalls: pc – (fwa | fwb) – isp – srv, with a heartbeat between the two. */
export function pairOfFirewalls(parts: Paired = {}): Plan {
  const firewall = (id: string, n: number, more: Loose = {}) => ({
    id,
    role: "firewall",
    interfaces: [
      { name: "inside", addresses: ["172.20.16.1/24"], zone: "inside" },
      { name: "outside", addresses: ["198.51.100.2/29"], zone: "outside" },
      { name: "beat", addresses: [`10.0.0.${n}/30`] },
    ],
    routes: [{ to: ANY, via: "198.51.100.1" }],
    policy: { default: "deny", rules: [{ from: ["inside"], to: ["outside"], action: "allow" }] },
    ...more,
  });
  return planOf({
    devices: [
      host("pc", "172.20.16.10/24", "172.20.16.1"),
      firewall("fwa", 1, parts.a),
      firewall("fwb", 2, parts.b),
      {
        id: "isp",
        role: "router",
        interfaces: [
          { name: "fw", addresses: ["198.51.100.1/29"] },
          { name: "srv", addresses: ["203.0.113.1/24"] },
        ],
        routes: [{ to: "172.20.16.0/24", via: "198.51.100.2" }],
      },
      host("srv", "203.0.113.80/24", "203.0.113.1"),
    ],
    links: [
      { id: "in", medium: "switch", ends: ["pc/eth0", "fwa/inside", "fwb/inside"] },
      { id: "out", medium: "switch", ends: ["isp/fw", "fwa/outside", "fwb/outside"] },
      { id: "hb", ends: ["fwa/beat", "fwb/beat"] },
      { id: "sl", ends: ["isp/srv", "srv/eth0"] },
      ...(parts.links ?? []),
    ],
    pairs: [{ id: "hq", members: ["fwa", "fwb"], active: "fwa", heartbeats: ["hb"], ...parts.pair }],
    gateways: [{ id: "way", at: "fwa/outside" }],
    flows: [{ id: "f", from: "pc", to: "srv", protocol: "tcp", port: 443, ...parts.flow }],
    ...parts.plan,
  });
}
