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
          {
            name: "in",
            addresses: ["10.1.0.1/24"],
            zone: "inside",
            note: "desks",
            proxyArp: true,
            mbps: 1000,
            virtual: [
              {
                id: 7,
                addresses: ["10.1.0.254"],
                priority: 120,
                preempt: false,
                preemptDelayMs: 5000,
                advertMs: 500,
                accept: true,
                sync: "all",
                track: [
                  { interface: "out", lower: 20 },
                  { watch: "seen", lower: 30 },
                ],
              },
            ],
          },
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
          { name: "port1" },
          { name: "port2" },
          { name: "agg", kind: "bundle", members: ["port1", "port2"], minUp: 2, lacp: "fast" },
          { name: "agg.20", parent: "agg", vlan: 20, addresses: ["10.6.0.1/24"], zone: "inside" },
        ],
        bootMs: 30_000,
        routes: [
          { to: "0.0.0.0/0", via: "192.0.2.1", out: "out", watch: "both", note: "main" },
          { to: "0.0.0.0/0", viaFrom: "pool", distance: 200 },
          { to: "10.4.0.0/16", discard: "drop", distance: 250, enabled: false },
        ],
        learned: [
          { to: "10.3.0.0/16", via: "10.9.0.2", out: "tun", protocol: "ospf", metric: 20, backAfterMs: 9000 },
        ],
        policyTables: [
          {
            name: "guests",
            match: {
              in: ["in"],
              from: ["10.1.0.128/25"],
              to: ["203.0.113.0/24"],
              protocol: "udp",
              port: "5060-5061",
              mark: 7,
            },
            lookup: "first",
            routes: [{ to: "0.0.0.0/0", viaFrom: "pool", watch: "seen" }],
          },
        ],
        sourceNat: [{ out: "out", from: ["10.1.0.0/24"], to: "interface" }],
        destNat: [
          { in: "out", to: "192.0.2.2", protocol: "tcp", port: 443, via: "10.1.0.9", viaPort: 8443 },
          { in: ["in", "out"], to: "203.0.113.40", via: "10.1.0.9" },
        ],
        marks: [
          {
            set: 7,
            in: ["in"],
            from: ["10.1.0.0/24"],
            to: ["203.0.113.0/24"],
            protocol: "udp",
            port: "5060",
          },
        ],
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
          { id: "home", kind: "route", to: "10.1.0.0/24" },
        ],
      },
      {
        id: "wall-two",
        role: "firewall",
        profile: "own",
        interfaces: [
          { name: "in", addresses: ["10.1.0.1/24"], zone: "inside" },
          { name: "beat", addresses: ["10.7.0.2/30"] },
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
        ends: ["wall/in", "desk/eth0", "wall-two/in"],
        note: "under the stairs",
      },
      {
        id: "wan",
        medium: "multipoint",
        hub: "isp/a",
        ends: ["wall/out", "isp/a"],
        delayMs: 4,
        over: ["duct"],
        mbps: 50,
      },
      { id: "beats", ends: ["wall/port1", "wall-two/beat"] },
      { id: "duct", label: "The duct" },
    ],
    risks: [
      {
        id: "room",
        label: "The cabinet",
        of: ["link:duct", "device:wall", "interface:isp/a", "site:quay"],
        note: "under the quay",
      },
    ],
    pairs: [
      {
        id: "walls",
        label: "Both walls",
        members: ["wall", "wall-two"],
        active: "wall",
        preempt: true,
        helloMs: 500,
        missed: 4,
        heartbeats: ["beats"],
        monitor: ["in"],
        syncStates: true,
        note: "one above the other",
      },
    ],
    gateways: [{ id: "main", label: "Main line", at: "wall/out", via: "192.0.2.1", mbps: 50 }],
    flows: [
      {
        id: "web",
        from: "desk/eth0",
        source: "10.1.0.9",
        to: "203.0.113.9",
        protocol: "tcp",
        port: 443,
        rate: 5,
        mbps: 2,
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
          { atMs: 9000, restore: ["link:wan"], fail: ["device:isp", "risk:room"], shut: ["site:quay"] },
        ],
      },
    ],
    dismissals: [{ code: "no-return", device: "wall", subject: "web", reason: "known" }],
  });
  if (!reading.ok) throw new Error(JSON.stringify(reading.errors));
  return reading.plan;
}
