import { describe, expect, it } from "vitest";
import { proposeFlows } from "../core/authoring/index.ts";
import { applyEdit, type Plan, readPlan } from "../core/plan/index.ts";
import { NetworkModel } from "../core/scenario/index.ts";
import { fullPlan } from "../tests/support/full-plan.ts";
import { demoPlan, tripOf } from "../tests/support/plans.ts";
import { isArchive, pack, unpack } from "./archive.ts";
import { deviceByName, nameInText } from "./device-names.ts";
import { driftOf } from "./drift.ts";
import { ignoring, unignore } from "./drift-ignored.ts";
import { readFiles } from "./readings.ts";
import { mergeInto } from "./rebuild/merge.ts";
import { rebuildPlan } from "./rebuild/plan.ts";
import { writeFiles } from "./writers/index.ts";

const demo = demoPlan("marrow-bay");

function rebuilt(files: { name: string; text: string }[], words: [string, string][] = []) {
  const readings = readFiles(files, { words });
  const outcome = rebuildPlan(readings, "read");
  if (!outcome.ok)
    throw new Error(outcome.errors.map(({ path, message }) => `${path}: ${message}`).join("; "));
  return { ...outcome.rebuilt, readings };
}

const address = JSON.stringify([
  {
    ifname: "lo",
    flags: ["LOOPBACK", "UP", "LOWER_UP"],
    link_type: "loopback",
    addr_info: [{ local: "127.0.0.1", prefixlen: 8 }],
  },
  {
    ifname: "wan1",
    flags: ["BROADCAST", "UP", "LOWER_UP"],
    link_type: "ether",
    address: "00:00:5e:00:53:01",
    addr_info: [
      { local: "198.51.100.2", prefixlen: 30 },
      { local: "fe80::200:5eff:fe00:5301", prefixlen: 64 },
    ],
  },
  {
    ifname: "lan",
    flags: ["BROADCAST", "UP", "LOWER_UP"],
    link_type: "ether",
    master: "red",
    addr_info: [{ local: "172.20.16.1", prefixlen: 24 }],
  },
  { ifname: "red", flags: ["UP", "LOWER_UP"], linkinfo: { info_kind: "vrf", info_data: { table: 10 } } },
]);
const routes = JSON.stringify([
  { dst: "default", gateway: "198.51.100.1", dev: "wan1", protocol: "static", metric: 5, flags: [] },
  {
    dst: "198.51.100.0/30",
    dev: "wan1",
    protocol: "kernel",
    scope: "link",
    prefsrc: "198.51.100.2",
    flags: [],
  },
  { dst: "172.20.16.0/24", dev: "lan", table: "10", protocol: "kernel", scope: "link", flags: [] },
  { type: "blackhole", dst: "10.0.0.0/8", table: "10", protocol: "static", flags: [] },
  {
    dst: "10.9.0.0/16",
    protocol: "bgp",
    flags: [],
    nexthops: [
      { gateway: "198.51.100.1", dev: "wan1", flags: [] },
      { gateway: "172.20.16.9", dev: "lan", flags: ["linkdown"] },
    ],
  },
  { type: "broadcast", dst: "198.51.100.3", dev: "wan1", table: "local", protocol: "kernel", flags: [] },
]);

describe("iproute2's JSON", () => {
  const { readings, plan, outlines } = rebuilt([
    { name: "tern/route.json", text: routes },
    { name: "tern/address.json", text: address },
  ]);
  const { facts } = readings.devices[0];

  it("tells interfaces, VRFs and routes, and nothing that it does not say", () => {
    expect(facts.device).toBe("tern");
    expect(facts.interfaces.find(({ name }) => name === "lan")).toMatchObject({
      vrf: "red",
      addresses: ["172.20.16.1/24"],
      up: true,
      mbps: null,
    });
    expect(facts.routes).toEqual([
      {
        to: "0.0.0.0/0",
        via: "198.51.100.1",
        out: "wan1",
        vrf: "main",
        table: "main",
        source: "static",
        distance: null,
        metric: 5,
        active: true,
        discard: null,
      },
      {
        to: "198.51.100.0/30",
        via: null,
        out: "wan1",
        vrf: "main",
        table: "main",
        source: "connected",
        distance: null,
        metric: null,
        active: true,
        discard: null,
        own: "198.51.100.2",
      },
      {
        to: "172.20.16.0/24",
        via: null,
        out: "lan",
        vrf: "red",
        table: null,
        source: "connected",
        distance: null,
        metric: null,
        active: true,
        discard: null,
      },
      {
        to: "10.0.0.0/8",
        via: null,
        out: null,
        vrf: "red",
        table: null,
        source: "static",
        distance: null,
        metric: null,
        active: true,
        discard: "drop",
      },
      {
        to: "10.9.0.0/16",
        via: "198.51.100.1",
        out: "wan1",
        vrf: "main",
        table: "main",
        source: "bgp",
        distance: null,
        metric: null,
        active: true,
        discard: null,
      },
      {
        to: "10.9.0.0/16",
        via: "172.20.16.9",
        out: "lan",
        vrf: "main",
        table: "main",
        source: "bgp",
        distance: null,
        metric: null,
        active: false,
        discard: null,
      },
    ]);
  });

  it("gives every object a fate with its line", () => {
    const text = address.replaceAll('},{"ifname', '},\n{"ifname');
    const lines = readFiles([{ name: "tern/address.json", text }]).lines;
    expect(lines.map(({ line, fate }) => [line, fate])).toEqual([
      [1, "taken"],
      [2, "taken"],
      [3, "taken"],
      [4, "taken"],
    ]);
    const broken = readFiles([
      {
        name: "tern/route.json",
        text: '[{"dst":"nonsense","dev":"wan1"},{"dst":"10.0.0.0/8","dev":"wan1","protocol":"static"}]',
      },
    ]);
    expect(broken.lines.map(({ fate }) => fate)).toEqual(["not-understood", "taken"]);
  });

  it("makes a lone router a working plan: its next hops are outlined, and beyond them nothing is known", () => {
    expect(outlines.map(({ addresses }) => addresses)).toContainEqual(["198.51.100.1/30"]);
    const { world } = NetworkModel.compile(plan);
    expect(tripOf(world, "tern", "203.0.113.9").verdict).toBe("unknown");
    expect(tripOf(world, "tern", "203.0.113.9").worst.outbound.drop?.code).toBe("beyond-outline");
    expect(tripOf(world, "tern", "198.51.100.1").verdict).toBe("works");
  });
});

describe("a route table alone, whose codes nobody explained", () => {
  const { plan } = rebuilt([
    {
      name: "lone.txt",
      text: " H 0.0.0.0/0 198.51.100.1 wan1\n O 198.51.100.0/30 - wan1\n O 172.20.16.0/24 - lan\n",
    },
  ]);

  it("is a router whose networks are attached and whose default works, all the same", () => {
    const lone = plan.devices.find(({ id }) => id === "lone");
    expect(lone?.interfaces.map(({ name, addresses }) => [name, ...addresses])).toEqual([
      ["wan1", "198.51.100.2/30"],
      ["lan", "172.20.16.1/24"],
    ]);
    expect(lone?.routes.map(({ to, via }) => [to, via])).toEqual([["0.0.0.0/0", "198.51.100.1"]]);
    const model = NetworkModel.compile(plan);
    expect(tripOf(model.world, "lone", "203.0.113.9").verdict).toBe("unknown");
  });

  it("has its own flows proposed, and none of outlined devices", () => {
    const edit = proposeFlows(NetworkModel.compile(plan).network);
    expect(edit?.changes.map(({ after }) => (after as { from: string }).from)).toEqual(["lone"]);
  });
});

describe("iproute2's text", () => {
  const text = {
    address: `1: lo: <LOOPBACK,UP,LOWER_UP> mtu 65536 qdisc noqueue state UNKNOWN group default qlen 1000
    link/loopback 00:00:00:00:00:00 brd 00:00:00:00:00:00
    inet 127.0.0.1/8 scope host lo
2: wan1@if7: <BROADCAST,MULTICAST,UP,LOWER_UP> mtu 1500 qdisc noqueue state UP group default qlen 1000
    link/ether 00:00:5e:00:53:01 brd ff:ff:ff:ff:ff:ff link-netnsid 0
    inet 198.51.100.2/30 scope global wan1
       valid_lft forever preferred_lft forever
    inet6 2001:db8::2/64 scope global nodad
`,
    routes: `default via 198.51.100.1 dev wan1 proto static metric 5
198.51.100.0/30 dev wan1 proto kernel scope link src 198.51.100.2
blackhole 10.0.0.0/8 proto static
10.9.0.0/16 proto static metric 20
	nexthop via 198.51.100.1 dev wan1 weight 1
	nexthop via 198.51.100.9 dev wan1 weight 1 onlink
`,
    rules:
      "0:\tfrom all lookup local\n1000:\tfrom 172.20.48.0/24 iif wan1 lookup 100\n32766:\tfrom all lookup main\n",
    neighbours: "198.51.100.1 dev wan1 lladdr 00:00:5e:00:53:02 REACHABLE\n198.51.100.7 dev wan1  FAILED\n",
  };

  it("says the same as its JSON", () => {
    const { facts } = readFiles(
      Object.entries(text).map(([name, body]) => ({ name: `tern/${name}.txt`, text: body })),
    ).devices[0];
    expect(facts.interfaces.find(({ name }) => name === "wan1")).toMatchObject({
      addresses: ["198.51.100.2/30", "2001:db8::2/64"],
      hardware: "00:00:5e:00:53:01",
      up: true,
    });
    expect(
      facts.routes.map(({ to, via, discard, metric, source }) => [to, via, discard, metric, source]),
    ).toEqual(
      [
        ["10.9.0.0/16", "198.51.100.1", null, 20, "static"],
        ["10.9.0.0/16", "198.51.100.9", null, 20, "static"],
        ["0.0.0.0/0", "198.51.100.1", null, 5, "static"],
        ["198.51.100.0/30", null, null, null, "connected"],
        ["10.0.0.0/8", null, "drop", null, "static"],
      ].sort(
        (a, b) => facts.routes.findIndex((r) => r.to === a[0]) - facts.routes.findIndex((r) => r.to === b[0]),
      ),
    );
    expect(facts.rules).toEqual([{ priority: 1000, from: "172.20.48.0/24", in: "wan1", table: "100" }]);
    expect(facts.neighbours).toEqual([
      { address: "198.51.100.1", hardware: "00:00:5e:00:53:02", interface: "wan1" },
    ]);
  });
});

describe("iproute2 files", () => {
  it("say in comments what they leave out", () => {
    const plan = fullPlan();
    const tables = plan.devices[0].policyTables.map((table) => ({ ...table, lookup: "overlay" as const }));
    const devices = plan.devices.with(0, { ...plan.devices[0], policyTables: tables });
    const files = writeFiles({ ...plan, devices }, "iproute2", null);
    const { text } = files.find(({ name }) => name === "wall.batch") ?? {};
    const rules = files.find(({ name }) => name === "wall.nft")?.text;
    for (const part of ["masquerade", "dnat to", "meta mark set"]) expect(rules).toContain(part);
    for (const what of [
      "proxy ARP on in",
      "the policy between zones",
      "the lookup of table guests together with main",
    ])
      expect(text).toContain(`# not written: ${what}`);
  });
});

describe("rules of iproute2", () => {
  const readRules = (text: string) => {
    const { plan, readings } = rebuilt([
      { name: "r/addresses.txt", text: "2: eth0: <UP> mtu 1500\n    inet 192.0.2.1/30 scope global eth0\n" },
      { name: "r/routes.txt", text: "default via 192.0.2.2 dev eth0 table 100\n" },
      { name: "r/rules.txt", text },
    ]);
    const tables = plan.devices[0].policyTables.map(({ name, match }) => ({ name, match }));
    return { readings, facts: readings.devices[0].facts, tables };
  };

  it("are taken with destination, protocol, port and mark, in text and in JSON", () => {
    const wanted = [
      {
        priority: 1000,
        from: "10.1.0.0/16",
        in: "eth0",
        table: "100",
        to: "10.2.0.0/16",
        protocol: "udp",
        port: "5060-5061",
        mark: 7,
      },
    ];
    const text =
      "1000:\tfrom 10.1.0.0/16 to 10.2.0.0/16 iif eth0 fwmark 0x7 ipproto udp dport 5060-5061 lookup 100 proto static\n";
    expect(readRules(text).facts.rules).toEqual(wanted);
    const json = JSON.stringify([
      {
        priority: 1000,
        src: "10.1.0.0",
        srclen: 16,
        dst: "10.2.0.0",
        dstlen: 16,
        iif: "eth0",
        fwmark: "0x7",
        ipproto: "udp",
        dport_start: 5060,
        dport_end: 5061,
        table: "100",
      },
    ]);
    expect(readRules(json).facts.rules).toEqual(wanted);
  });

  it("are told and left out where a plan cannot say what they ask for", () => {
    const left = [
      "100:\tnot from 10.1.0.0/16 lookup 100",
      "101:\tfrom all tos 0x10 lookup 100",
      "102:\tfrom all uidrange 0-100 lookup 100",
      "103:\tfrom all lookup main suppress_prefixlength 0",
      "104:\tfrom all fwmark 0x1/0xff lookup 100",
      "105:\tfrom all sport 53 lookup 100",
      "106:\tfrom all ipproto sctp lookup 100",
      "107:\tfrom all unreachable",
      "40000:\tfrom 10.1.0.0/16 lookup 100",
    ];
    for (const line of left) {
      const { facts, readings } = readRules(`${line}\n`);
      expect({ line, rules: facts.rules }).toEqual({ line, rules: [] });
      const fates = readings.lines.filter(({ text }) => text === line).map(({ fate }) => fate);
      const wanted = line.includes("unreachable") ? "not-understood" : "doubtful";
      expect({ line, fates }).toEqual({ line, fates: [wanted] });
    }
  });

  it("that lead to one table are one match only where they take the same packets together", () => {
    const { tables } = readRules(
      [
        "100:\tfrom 10.1.0.0/16 iif eth0 lookup 100",
        "100:\tfrom 10.2.0.0/16 iif eth0 lookup 100",
        "101:\tfrom 10.3.0.0/16 lookup 100",
        "",
      ].join("\n"),
    );
    expect(tables).toEqual([
      { name: "100", match: { in: ["eth0"], from: ["10.1.0.0/16", "10.2.0.0/16"] } },
      { name: "100-2", match: { from: ["10.3.0.0/16"] } },
    ]);
  });
});

describe("the IETF's models", () => {
  // RFC 8349, appendix E, shortened: the instance data of a router with a static default in both families.
  const state = {
    "ietf-interfaces:interfaces": {
      interface: [
        {
          name: "eth0",
          type: "iana-if-type:ethernetCsmacd",
          "oper-status": "up",
          "phys-address": "00:0C:42:E5:B1:E9",
          "ietf-ip:ipv4": { forwarding: true, address: [{ ip: "192.0.2.1", "prefix-length": 24 }] },
          "ietf-ip:ipv6": { forwarding: true, address: [{ ip: "2001:0db8:0:1::1", "prefix-length": 64 }] },
        },
      ],
    },
    "ietf-routing:routing": {
      "router-id": "192.0.2.1",
      ribs: {
        rib: [
          {
            name: "ipv4-primary",
            "address-family": "ietf-routing:ipv4",
            "default-rib": true,
            routes: {
              route: [
                {
                  "ietf-ipv4-unicast-routing:destination-prefix": "192.0.2.1/24".replace(".1/", ".0/"),
                  "next-hop": { "outgoing-interface": "eth0" },
                  "route-preference": 0,
                  "source-protocol": "ietf-routing:direct",
                  active: [null],
                },
                {
                  "ietf-ipv4-unicast-routing:destination-prefix": "0.0.0.0/0",
                  "next-hop": { "ietf-ipv4-unicast-routing:next-hop-address": "192.0.2.2" },
                  "route-preference": 5,
                  "source-protocol": "ietf-routing:static",
                  active: [null],
                },
                {
                  "ietf-ipv4-unicast-routing:destination-prefix": "198.51.100.0/24",
                  "next-hop": { "special-next-hop": "blackhole" },
                  "route-preference": 5,
                  "source-protocol": "ietf-routing:static",
                },
              ],
            },
          },
        ],
      },
    },
  };

  it("are read as JSON: what is active, preferences, sources, discards (RFC 8343, 8344, 8349)", () => {
    const { facts } = readFiles([{ name: "router.json", text: JSON.stringify(state, null, 2) }]).devices[0];
    expect(facts.forwarding).toEqual({ ipv4: true, ipv6: true });
    expect(facts.interfaces[0]).toMatchObject({
      name: "eth0",
      up: true,
      hardware: "00:0c:42:e5:b1:e9",
      addresses: ["192.0.2.1/24", "2001:db8:0:1::1/64"],
    });
    expect(
      facts.routes.map(({ to, via, out, source, distance, active, discard }) => ({
        to,
        via,
        out,
        source,
        distance,
        active,
        discard,
      })),
    ).toEqual([
      {
        to: "192.0.2.0/24",
        via: null,
        out: "eth0",
        source: "connected",
        distance: 0,
        active: true,
        discard: null,
      },
      {
        to: "0.0.0.0/0",
        via: "192.0.2.2",
        out: null,
        source: "static",
        distance: 5,
        active: true,
        discard: null,
      },
      {
        to: "198.51.100.0/24",
        via: null,
        out: null,
        source: "static",
        distance: 5,
        active: false,
        discard: "drop",
      },
    ]);
  });

  it("say the same as XML, whatever the prefixes of their namespaces", () => {
    const xml = `<?xml version="1.0"?>
<data xmlns="urn:ietf:params:xml:ns:netconf:base:1.0">
  <if:interfaces xmlns:if="urn:ietf:params:xml:ns:yang:ietf-interfaces">
    <if:interface>
      <if:name>eth0</if:name>
      <ipv4 xmlns="urn:ietf:params:xml:ns:yang:ietf-ip"><forwarding>true</forwarding>
        <address><ip>192.0.2.1</ip><prefix-length>24</prefix-length></address>
      </ipv4>
    </if:interface>
  </if:interfaces>
  <routing xmlns="urn:ietf:params:xml:ns:yang:ietf-routing">
    <control-plane-protocols><control-plane-protocol>
      <type>static</type><name>written</name>
      <static-routes>
        <ipv4 xmlns="urn:ietf:params:xml:ns:yang:ietf-ipv4-unicast-routing">
          <route><destination-prefix>0.0.0.0/0</destination-prefix>
            <next-hop><next-hop-address>192.0.2.2</next-hop-address></next-hop></route>
        </ipv4>
      </static-routes>
    </control-plane-protocol></control-plane-protocols>
  </routing>
</data>`;
    const { devices, lines } = readFiles([{ name: "router.xml", text: xml }]);
    expect(devices[0].facts.interfaces[0].addresses).toEqual(["192.0.2.1/24"]);
    expect(devices[0].facts.routes[0]).toMatchObject({
      to: "0.0.0.0/0",
      via: "192.0.2.2",
      source: "static",
      distance: null,
      active: null,
    });
    expect(lines.every(({ fate }) => fate === "taken")).toBe(true);
    expect(readFiles([{ name: "x.xml", text: xml.replace("</data>", "") }]).lines[0].fate).toBe(
      "not-understood",
    );
  });
});

describe("a route whose next hop another route reaches straight", () => {
  it("is usable whatever becomes of that one, as a kernel has it", () => {
    const { plan } = rebuilt([
      { name: "r/addresses.txt", text: "2: eth0: <UP> mtu 1500\n    inet 192.0.2.1/30 scope global eth0\n" },
      {
        name: "r/routes.txt",
        text: "10.1.4.0/24 via 10.1.4.1 dev eth0 metric 7\n10.1.4.0/24 dev eth0 scope link metric 9\n10.9.0.0/16 via 192.0.2.2 dev eth0 metric 3\n",
      },
    ]);
    expect(plan.devices[0].routes.map(({ via, onLink }) => [via, onLink])).toEqual([
      ["10.1.4.1", true],
      [undefined, undefined],
      ["192.0.2.2", undefined],
    ]);
  });
});

describe("nftables' rules on the edge of what a plan says", () => {
  it.each([
    ['oifname { "a", "b" } masquerade', "taken"],
    ['oifname != "a" masquerade', "doubtful"],
    ['oifname "a" ip saddr != 10.0.0.0/8 masquerade', "doubtful"],
    ['oifname "a" snat to 192.0.2.1-192.0.2.9', "doubtful"],
    ["ip saddr 10.0.0.0/8 masquerade", "doubtful"],
    ['counter packets 5 bytes 300 oifname "a" masquerade comment "to; the north"', "taken"],
    ['oifname "a" masquerade fully-random', "taken"],
    ['iifname "a" meta mark set ct mark', "doubtful"],
    ['iifname "a" meta mark set 0x7 accept', "doubtful"],
    ['iifname "a" icmp type echo-request meta mark set 5', "doubtful"],
    ['iifname "a" tcp dport { 80, 443 } meta mark set 5', "doubtful"],
    ['iifname "a" meta mark set 5', "taken"],
    ["meta mark set 5", "doubtful"],
    ['iifname "a" tcp dport 22 accept', "doubtful"],
    ["counter", "known"],
  ])("%s is %s", (rule, fate) => {
    const text = `table inet x {\n chain y { type filter hook prerouting priority 0; policy accept;\n ${rule}\n }\n}`;
    const { lines } = readFiles([{ name: "r/x.txt", text }]);
    expect(lines.find(({ line }) => line === 3)?.fate).toBe(fate);
    // The same on the line of its chain's head.
    const short = readFiles([{ name: "r/x.txt", text: text.replaceAll("\n", " ") }]).lines;
    expect(short.map((one) => one.fate)).toContain(fate);
  });

  it("take a mark of the device's own packets for one with that of arriving ones, and not alone", () => {
    const fates = (arriving: string, own: string) =>
      readFiles([
        {
          name: "r/x.txt",
          text: `table inet x {
chain a { type filter hook prerouting priority -150;
${arriving}
}
chain o { type route hook output priority -150;
${own}
}
}`,
        },
      ]).lines.flatMap(({ line, fate }) => (line === 3 || line === 6 ? [fate] : []));
    expect(fates("meta mark set 5", "meta mark set 5")).toEqual(["taken", "known"]);
    expect(fates("meta mark set 5", "meta mark set 6")).toEqual(["doubtful", "doubtful"]);
  });
});

describe("nftables", () => {
  const text = `table ip nat {
	chain postrouting {
		type nat hook postrouting priority srcnat; policy accept;
		oifname "wan1" ip saddr { 172.20.0.0/16, 10.0.0.1 } masquerade
		oifname "wan2" snat to 198.51.100.9
		oifname "wan1" tcp dport 80 masquerade
	}
}
`;
  const rule = (expr: object[]) => ({ rule: { family: "ip", table: "nat", chain: "postrouting", expr } });
  const meta = (right: string) => ({ match: { op: "==", left: { meta: { key: "oifname" } }, right } });
  const saddr = {
    match: {
      op: "==",
      left: { payload: { protocol: "ip", field: "saddr" } },
      right: { set: [{ prefix: { addr: "172.20.0.0", len: 16 } }, "10.0.0.1"] },
    },
  };
  const dport = { match: { op: "==", left: { payload: { protocol: "tcp", field: "dport" } }, right: 80 } };
  const json = JSON.stringify({
    nftables: [
      { metainfo: { version: "1.0" } },
      { table: { family: "ip", name: "nat" } },
      rule([meta("wan1"), saddr, { masquerade: null }]),
      rule([meta("wan2"), { snat: { addr: "198.51.100.9" } }]),
      rule([meta("wan1"), dport, { masquerade: null }]),
    ],
  });

  it.each([
    ["text", text],
    ["JSON", json],
  ])("as %s tells what is translated; what a plan cannot say is doubtful", (_, body) => {
    const { devices, lines } = readFiles([{ name: "tern/nft.txt", text: body }]);
    expect(devices[0].facts.translations).toEqual([
      { out: "wan1", from: ["172.20.0.0/16", "10.0.0.1/32"], to: "interface" },
      { out: "wan2", from: [], to: "198.51.100.9" },
    ]);
    expect(lines.filter(({ fate }) => fate === "doubtful")).toHaveLength(1);
  });
});

it("names with marks of XML's own go out and come in again; what a document declares is never expanded", () => {
  const plan = demoPlan("three-routers");
  const label = `A & B <"quay"> 'x'`;
  const [first, ...others] = plan.devices;
  const named = { ...plan, devices: [{ ...first, label }, ...others] };
  const [file] = writeFiles(named, "ietf-xml", first.id);
  expect(readFiles([file]).devices[0].told).toBe(label);
  const numbered = file.text.replace("<hostname>", "<hostname>&#8364;&#x41;&#0;&#xD800;");
  expect(readFiles([{ ...file, text: numbered }]).devices[0].told).toBe(`€A&#0;&#xD800;${label}`);
  const declared = `<!DOCTYPE data [<!ENTITY big "${"x".repeat(1000)}">]>\n${file.text.replace(/^<\?xml.*\n/, "").replace("<hostname>", "<hostname>&big;")}`;
  const told = readFiles([{ ...file, text: declared }]).devices[0]?.told ?? "";
  expect(told.length).toBeLessThan(100);
});

describe("of several routes to one destination that differ by metric", () => {
  const routes = [
    { dst: "10.1.0.0/16", gateway: "10.0.0.2", dev: "a", metric: 5, flags: [] },
    { dst: "10.1.0.0/16", gateway: "10.0.1.2", dev: "b", metric: 50, flags: [] },
    { dst: "10.2.0.0/16", gateway: "10.0.0.2", dev: "a", metric: 5, flags: ["dead", "linkdown"] },
    { dst: "10.2.0.0/16", gateway: "10.0.1.2", dev: "b", metric: 50, flags: [] },
  ];
  it.each([
    ["JSON", JSON.stringify(routes)],
    [
      "text",
      routes
        .map(
          ({ dst, gateway, dev, metric, flags }) =>
            `${dst} via ${gateway} dev ${dev} proto static metric ${metric} ${flags.join(" ")}`,
        )
        .join("\n"),
    ],
  ])("those with the lowest are in use, and no dead one is (%s)", (_as, text) => {
    const { devices } = readFiles([{ name: "tern/route", text }]);
    expect(devices[0].facts.routes.map(({ active }) => active)).toEqual([true, false, false, true]);
  });
});

describe("a saved numeric walk of management tables", () => {
  const walk = `.1.3.6.1.2.1.1.5.0 = STRING: "tern-edge"
.1.3.6.1.2.1.2.2.1.2.1 = STRING: "wan1"
.1.3.6.1.2.1.2.2.1.2.2 = STRING: "lan"
.1.3.6.1.2.1.2.2.1.3.1 = INTEGER: 6
.1.3.6.1.2.1.2.2.1.6.1 = Hex-STRING: 00 00 5E 00 53 01
.1.3.6.1.2.1.2.2.1.7.1 = INTEGER: up(1)
.1.3.6.1.2.1.2.2.1.8.1 = INTEGER: 2
.1.3.6.1.2.1.4.1.0 = INTEGER: 1
.1.3.6.1.2.1.4.20.1.2.198.51.100.2 = INTEGER: 1
.1.3.6.1.2.1.4.20.1.3.198.51.100.2 = IpAddress: 255.255.255.252
.1.3.6.1.2.1.4.34.1.3.2.16.32.1.13.184.0.0.0.0.0.0.0.0.0.0.0.2 = INTEGER: 2
.1.3.6.1.2.1.4.34.1.5.2.16.32.1.13.184.0.0.0.0.0.0.0.0.0.0.0.2 = OID: .1.3.6.1.2.1.4.32.1.5.2.2.16.32.1.13.184.0.0.0.0.0.0.0.0.0.0.0.0.64
.1.3.6.1.2.1.4.35.1.4.1.1.4.198.51.100.1 = STRING: 0:0:5e:0:53:2
.1.3.6.1.2.1.4.24.7.1.7.1.4.0.0.0.0.0.2.0.0.1.4.198.51.100.1 = INTEGER: 1
.1.3.6.1.2.1.4.24.7.1.8.1.4.0.0.0.0.0.2.0.0.1.4.198.51.100.1 = INTEGER: 4
.1.3.6.1.2.1.4.24.7.1.9.1.4.0.0.0.0.0.2.0.0.1.4.198.51.100.1 = INTEGER: 3
.1.3.6.1.2.1.4.24.7.1.12.1.4.0.0.0.0.0.2.0.0.1.4.198.51.100.1 = INTEGER: 5
.1.3.6.1.2.1.4.24.7.1.7.1.4.10.0.0.0.8.2.0.0.0.0 = INTEGER: 1
.1.3.6.1.2.1.4.24.7.1.8.1.4.10.0.0.0.8.2.0.0.0.0 = INTEGER: 5
.1.3.6.1.2.1.4.24.7.1.9.1.4.10.0.0.0.8.2.0.0.0.0 = INTEGER: 3
.1.0.8802.1.1.2.1.4.1.1.7.0.1.1 = STRING: "cust"
.1.0.8802.1.1.2.1.4.1.1.9.0.1.1 = STRING: "north"
.1.3.6.1.2.1.1.3.0 = Timeticks: (1234) 0:00:12.34
`;

  it("tells interfaces, addresses, routes, neighbours and who announced itself (RFC 2863, 4293, 4292)", () => {
    const [collector] = readFiles([{ name: "walk.txt", text: walk }]).devices;
    const { facts } = collector;
    expect(collector.told).toBe("tern-edge");
    expect(facts.interfaces[0]).toMatchObject({
      name: "wan1",
      kind: "ethernet",
      enabled: true,
      up: false,
      hardware: "00:00:5e:00:53:01",
      addresses: ["198.51.100.2/30"],
    });
    expect(facts.interfaces[1].addresses).toEqual(["2001:db8::2/64"]);
    expect(
      facts.routes.map(({ to, via, out, source, metric, discard }) => [
        to,
        via,
        out,
        source,
        metric,
        discard,
      ]),
    ).toEqual([
      ["0.0.0.0/0", "198.51.100.1", "wan1", "static", 5, null],
      ["10.0.0.0/8", null, null, "static", null, "drop"],
    ]);
    expect(facts.neighbours).toEqual([
      { address: "198.51.100.1", hardware: "00:00:5e:00:53:02", interface: "wan1" },
    ]);
    expect(facts.adjacent).toEqual([{ interface: "wan1", name: "north", port: "cust", hardware: null }]);
    expect(facts.forwarding.ipv4).toBe(true);
    expect(collector.fates.at(-1)).toMatchObject({ fate: "known" });
  });
});

describe("what goes out comes in again", () => {
  const inside = demo.devices.filter(({ role }) => role === "router");

  it.each(["ietf-json", "ietf-xml"] as const)(
    "as %s: interfaces, addresses and static routes of the main VRF",
    (as) => {
      for (const device of inside) {
        const { plan } = rebuilt(writeFiles(demo, as, device.id));
        const read = plan.devices.find(({ outline }) => !outline);
        expect(read?.interfaces.map(({ name, addresses }) => [name, addresses])).toEqual(
          device.interfaces.map(({ name, addresses }) => [name, addresses]),
        );
        const told = (routes: typeof device.routes) =>
          routes
            .filter(
              (route) =>
                (route.vrf ?? "main") === "main" && !route.viaFrom && !route.toVrf && route.enabled !== false,
            )
            .map(({ to, via, out, discard }) => [to, via, out, discard].join(" "))
            .sort();
        // The model has no distance: standby routes to the same destination are omitted.
        const behind = ({ to, distance = 0 }: (typeof device.routes)[number]) =>
          device.routes.some((other) => other.to === to && (other.distance ?? 0) < distance);
        expect(told(read?.routes ?? [])).toEqual(told(device.routes.filter((route) => !behind(route))));
      }
    },
  );

  it("as lists: interfaces, routes with their distances, and cables", () => {
    const { plan } = rebuilt(writeFiles(demo, "csv", null));
    for (const device of inside) {
      const read = plan.devices.find(({ id }) => id === device.id);
      const told = (routes: typeof device.routes) =>
        routes
          .filter((route) => !route.viaFrom && !route.toVrf && route.enabled !== false)
          .map(({ to, via, out, discard, distance, metric }) =>
            [to, via, out, discard, distance, metric || undefined].join(" "),
          )
          .sort();
      expect(told(read?.routes ?? [])).toEqual(told(device.routes));
    }
    const joined = (links: typeof demo.links) =>
      links
        .filter(({ ends }) => ends.length > 1)
        .map(({ ends }) =>
          ends
            .filter((end) => !end.startsWith("unknown-"))
            .sort()
            .join(" "),
        )
        .sort();
    expect(joined(plan.links)).toEqual(joined(demo.links));
  });

  it("as a topology that names every interface and link (RFC 8345)", () => {
    const [file] = writeFiles(demo, "topology", null);
    const { node, ...network } = JSON.parse(file.text)["ietf-network:networks"].network[0];
    expect(node.filter((n: { "node-id": string }) => !n["node-id"].startsWith("link:"))).toHaveLength(
      demo.devices.length,
    );
    for (const link of network["ietf-network-topology:link"]) {
      const from = node.find((n: { "node-id": string }) => n["node-id"] === link.source["source-node"]);
      expect(from["ietf-network-topology:termination-point"]).toContainEqual({
        "tp-id": link.source["source-tp"],
      });
    }
  });
});

describe("into a plan that is there", () => {
  const drawn = readPlan({
    ironFork: 1,
    name: "drawn",
    devices: [
      {
        id: "tern",
        role: "router",
        interfaces: [{ name: "wan1", addresses: ["198.51.100.2/30"], zone: "outside" }],
        watches: [{ id: "far", kind: "interface", interface: "wan1" }],
        routes: [{ to: "0.0.0.0/0", via: "198.51.100.1", out: "wan1", watch: "far", note: "primary" }],
      },
    ],
  });
  if (!drawn.ok) throw new Error(drawn.errors[0].message);

  it("updates what was read, and keeps what reading does not tell", () => {
    const read = rebuilt([
      { name: "tern/address.json", text: address },
      { name: "tern/route.json", text: routes },
    ]);
    const outcome = mergeInto(drawn.plan, read);
    if (!outcome.ok) throw new Error(outcome.errors[0].message);
    const tern = outcome.plan.devices.find(({ id }) => id === "tern");
    expect(tern?.routes.find(({ to }) => to === "0.0.0.0/0")).toMatchObject({
      metric: 5,
      watch: "far",
      note: "primary",
    });
    expect(tern?.interfaces.map(({ name, zone }) => [name, zone])).toEqual([
      ["wan1", "outside"],
      ["lan", undefined],
    ]);
    expect(tern?.watches).toHaveLength(1);
  });

  it("fills an outline once that device itself is read", () => {
    const first = rebuilt([
      { name: "tern/address.json", text: address },
      { name: "tern/route.json", text: routes },
    ]);
    const other = JSON.stringify([
      {
        ifname: "cust",
        flags: ["UP", "LOWER_UP"],
        link_type: "ether",
        addr_info: [{ local: "198.51.100.1", prefixlen: 30 }],
      },
      {
        ifname: "up",
        flags: ["UP", "LOWER_UP"],
        link_type: "ether",
        addr_info: [{ local: "203.0.113.1", prefixlen: 24 }],
      },
    ]);
    const outcome = mergeInto(first.plan, rebuilt([{ name: "north/address.json", text: other }]));
    if (!outcome.ok) throw new Error(outcome.errors[0].message);
    expect(outcome.plan.devices.filter(({ outline }) => outline).map(({ id }) => id)).not.toContain(
      "unknown-198-51-100-1",
    );
    const filled = outcome.plan.devices.find(({ id }) => id === "unknown-198-51-100-1");
    expect(filled?.interfaces.map(({ name }) => name)).toContain("cust");
  });

  it("tells drift: what is missing, extra, otherwise, and what is not active though predicted", () => {
    const seen = JSON.stringify([
      {
        dst: "default",
        gateway: "198.51.100.1",
        dev: "wan1",
        protocol: "static",
        metric: 9,
        flags: ["linkdown"],
      },
      { dst: "10.0.0.0/8", gateway: "198.51.100.1", dev: "wan1", protocol: "static", flags: [] },
    ]);
    const joined = readPlan({
      ...drawn.plan,
      devices: [
        ...drawn.plan.devices,
        { id: "north", role: "router", interfaces: [{ name: "cust", addresses: ["198.51.100.1/30"] }] },
      ],
      links: [{ id: "a", ends: ["tern/wan1", "north/cust"] }],
    });
    if (!joined.ok) throw new Error(joined.errors[0].message);
    const { differences } = driftOf(
      NetworkModel.compile(joined.plan),
      readFiles([{ name: "tern/route.json", text: seen }]).devices.map(({ named }) => named),
    );
    expect(differences.map(({ kind, text }) => `${kind}: ${text}`)).toEqual([
      "route-differs: the route to 0.0.0.0/0 has the metric 9, planned 0",
      "route-not-in-use: the route to 0.0.0.0/0 is not active, predicted active",
      "route-extra: the route 10.0.0.0/8 via 198.51.100.1 is not in the plan",
    ]);
    expect(
      driftOf(
        NetworkModel.compile(joined.plan),
        readFiles([{ name: "puffin/route.json", text: seen }]).devices.map(({ named }) => named),
      ).differences[0].kind,
    ).toBe("device-unknown");
  });

  it("a difference can be ignored for good, with a reason, until it is another or counts again", () => {
    const plan = demoPlan("three-routers");
    const [device] = plan.devices;
    const [file] = writeFiles(plan, "ietf-json", device.id);
    const text = file.text.replace(/(destination-prefix":\s*")[^"]+/, "$1198.51.100.0/24");
    const facts = (said: string) => readFiles([{ ...file, text: said }]).devices.map(({ named }) => named);
    const at = (one: Plan, said: string) => driftOf(NetworkModel.compile(one), facts(said));
    const { differences } = at(plan, text);
    expect(differences.length).toBeGreaterThan(1);
    const [first, ...others] = differences;
    const quiet = applyEdit(plan, ignoring([first], " by the owner's wish "));
    if (!quiet.ok) throw new Error(quiet.errors[0].message);
    expect(at(quiet.plan, text)).toMatchObject({
      differences: others,
      ignored: [{ ...first, reason: "by the owner's wish" }],
    });
    const again = at(quiet.plan, text.replaceAll("198.51.100.0/24", "198.51.100.0/25"));
    expect(again.differences.some(({ text: one }) => one.includes("198.51.100.0/25"))).toBe(true);
    const heard = applyEdit(quiet.plan, unignore(quiet.plan, [first]));
    expect(heard.ok && at(heard.plan, text)).toMatchObject({ differences, ignored: [] });
  });

  it("a device that the plan does not have can be ignored too", () => {
    const plan = demoPlan("three-routers");
    const text = JSON.stringify([{ dst: "10.0.0.0/8", gateway: "198.51.100.1", dev: "wan1", flags: [] }]);
    const said = readFiles([{ name: "puffin/route.json", text }]).devices.map(({ named }) => named);
    const [unknown] = driftOf(NetworkModel.compile(plan), said).differences;
    const quiet = applyEdit(plan, ignoring([unknown], "not ours"));
    if (!quiet.ok) throw new Error(quiet.errors[0].message);
    expect(driftOf(NetworkModel.compile(quiet.plan), said).differences).toEqual([]);
  });
});

describe("archives", () => {
  it("are unpacked with their folders, which tell whose the files are", () => {
    const bytes = pack([
      { name: "bundle/tern/address.json", text: address },
      { name: "bundle/tern/route.json", text: routes },
      { name: "bundle/.hidden", text: "nothing" },
    ]);
    expect(isArchive(bytes)).toBe(true);
    const files = unpack("bundle.zip", bytes);
    expect(files.map(({ name }) => name)).toEqual(["bundle/tern/address.json", "bundle/tern/route.json"]);
    expect(readFiles(files).devices[0].facts.device).toBe("tern");
  });

  it("that are broken are refused with a sentence; text is none", () => {
    const bytes = pack([{ name: "a.txt", text: "x".repeat(1000) }]);
    expect(() => unpack("a.zip", bytes.slice(0, 40))).toThrow("a.zip is not a readable ZIP archive");
    expect(isArchive(new TextEncoder().encode("PK is how this text begins"))).toBe(false);
  });
});

describe("whose a file is", () => {
  it.each([
    ["tern.txt", "tern"],
    ["site/tern/address.json", "tern"],
    ["tern/route.json", "tern"],
    ["bundle/gull/ip-route-6.txt", "gull"],
    ["bundle/gull-edge.json", "gull-edge"],
  ])("%s is of %s", (name, device) => expect(deviceByName(name)).toBe(device));

  it.each([
    ["west-router# show routes\n0.0.0.0/0 via 198.51.100.1", "west-router"],
    ["west-router>show routes", "west-router"],
    ["admin@edge-2:~$ ip route\ndefault via 192.0.2.1 dev eth0", "edge-2"],
    ["interface lan\nhostname gull-edge\n", "gull-edge"],
    ["default via 192.0.2.1 dev eth0", ""],
    ["* > 10.0.0.0/8 via 192.0.2.1", ""],
    ["", ""],
  ])("%j names %j", (text, device) => expect(nameInText(text)).toBe(device));
});
