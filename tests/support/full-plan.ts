import { type Plan, readPlan } from "../../core/plan/index.ts";

/** A plan in which everything refers to everything that it can: no field of the document is left out. */
export function fullPlan(): Plan {
  const reading = readPlan({
    ironFork: 1,
    name: "Everything",
    description: "Each field of a plan once at least",
    profiles: [{ id: "own", base: "zone-firewall", label: "Own firewall", staticDistance: 8 }],
    devices: [
      {
        id: "wall",
        label: "Wall",
        role: "firewall",
        site: "quay",
        profile: "own",
        forwarding: { ipv4: true, ipv6: true },
        note: "in the cabinet",
        interfaces: [
          { name: "in", addresses: ["10.1.0.1/24"], zone: "inside", note: "desks" },
          {
            name: "out",
            addresses: ["192.0.2.2/30", "fe80::1/64"],
            zone: "outside",
            hardware: "00:00:5e:00:53:01",
          },
          { name: "pool", addresses: ["198.51.100.2/24"], gatewayFrom: "dhcp", zone: "outside", metric: 5 },
          {
            name: "tun",
            kind: "tunnel",
            addresses: ["10.9.0.1/30"],
            zone: "inside",
            underlay: { to: "203.0.113.9", from: "192.0.2.2" },
          },
        ],
        routes: [
          { to: "0.0.0.0/0", via: "192.0.2.1", out: "out", watch: "both", note: "main" },
          { to: "0.0.0.0/0", viaFrom: "pool", distance: 200 },
          { to: "10.4.0.0/16", discard: "drop", distance: 250, enabled: false },
        ],
        learned: [{ to: "10.3.0.0/16", via: "10.9.0.2", out: "tun", protocol: "ospf", metric: 20 }],
        policyTables: [
          {
            name: "guests",
            match: { in: ["in"], from: ["10.1.0.128/25"] },
            lookup: "first",
            routes: [{ to: "0.0.0.0/0", viaFrom: "pool", watch: "seen" }],
          },
        ],
        sourceNat: [{ out: "out", from: ["10.1.0.0/24"], to: "interface" }],
        policy: {
          default: "deny",
          sameZone: "allow",
          trust: ["inside", "outside"],
          rules: [{ from: ["inside"], to: ["outside"], action: "allow", protocol: "tcp", port: "443" }],
        },
        watches: [
          { id: "seen", kind: "probe", target: "203.0.113.9", out: "out", source: "in" },
          { id: "local", kind: "probe", target: "fe80::2%out" },
          { id: "peer", kind: "bfd", interface: "out", peer: "192.0.2.1" },
          { id: "port", kind: "interface", interface: "out" },
          { id: "both", kind: "group", need: "all", of: ["peer", "port"] },
        ],
      },
      {
        id: "desk",
        role: "host",
        interfaces: [{ name: "eth0", addresses: ["10.1.0.9/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
      },
      {
        id: "isp",
        role: "provider",
        interfaces: [{ name: "a", addresses: ["192.0.2.1/30"] }],
        announces: ["192.0.2.0/24"],
      },
      { id: "sky", role: "cloud", reserved: 3, interfaces: [{ name: "subnet", addresses: ["10.5.0.1/24"] }] },
    ],
    links: [
      {
        id: "lan",
        label: "Desks",
        medium: "switch",
        ends: ["wall/in", "desk/eth0"],
        note: "under the stairs",
      },
      { id: "wan", medium: "circuit", ends: ["wall/out", "isp/a"], delayMs: 4 },
    ],
    gateways: [{ id: "main", label: "Main line", at: "wall/out", via: "192.0.2.1" }],
    flows: [
      {
        id: "web",
        from: "desk/eth0",
        source: "10.1.0.9",
        to: "203.0.113.9",
        protocol: "tcp",
        port: 443,
        rate: 5,
        expect: { carriers: ["main"], through: ["wall"], maxOutageMs: 2000, survive: 0, symmetric: true },
      },
      { id: "back", from: "isp", to: "desk" },
      { id: "near", from: "wall", to: "fe80::2%out" },
    ],
    outages: [
      {
        id: "cut",
        label: "The line is cut",
        steps: [
          { atMs: 0, fail: ["link:wan", "interface:wall/out", "watch:wall/peer"] },
          { atMs: 9000, restore: ["link:wan"], fail: ["device:isp"] },
        ],
      },
    ],
    dismissals: [{ code: "no-return", device: "wall", subject: "web", reason: "known" }],
  });
  if (!reading.ok) throw new Error(JSON.stringify(reading.errors));
  return reading.plan;
}
