import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { compareTable, printed } from "../../../tests/fuzz/layouts.ts";
import { otherTexts } from "../../../tests/support/other-texts.ts";
import { Random } from "../../../tests/support/random.ts";
import { readFiles } from "../../readings.ts";

/** Printed layouts of each run. */
const LAYOUTS = 300;

describe("random layouts of a device's routes", () => {
  it("are read exactly: 99 % of the routes and 97 % of the texts", () => {
    const [first] = fc.sample(fc.integer({ min: 1, max: 1_000_000_000 }), 1);
    let [routes, right, exact, wrong] = [0, 0, 0, 0];
    const failed: string[] = [];
    for (let seed = first; seed < first + LAYOUTS; seed++) {
      const table = printed(seed);
      const result = compareTable(table);
      routes += result.count;
      right += result.count - result.missing.length;
      wrong += result.wrong.length;
      if (result.missing.length + result.wrong.length === 0) exact++;
      else failed.push(`seed ${seed} (${table.family}): ${[...result.missing, ...result.wrong][0]}`);
    }
    expect(right / routes, failed.join("\n")).toBeGreaterThanOrEqual(0.99);
    expect(exact / LAYOUTS, failed.join("\n")).toBeGreaterThanOrEqual(0.97);
    // A false route that is reported as understood is the worst outcome.
    expect(wrong / routes, failed.join("\n")).toBeLessThan(0.005);
  });

  it.each(otherTexts)("%s holds no route and no interface", (_kind, make) => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1_000_000_000 }), (seed) => {
        const text = make(new Random(seed));
        const { devices } = readFiles([{ name: "other.txt", text }]);
        const routes = devices.flatMap(({ facts }) => facts.routes);
        const interfaces = devices.flatMap(({ facts }) => facts.interfaces);
        expect([...routes, ...interfaces], text).toEqual([]);
      }),
      { numRuns: 25 },
    );
  });
});

/** Addresses of interfaces and routes of the devices of a text. */
function factsIn(text: string, options?: Parameters<typeof readFiles>[1]) {
  const readings = readFiles([{ name: "tern.txt", text }], options);
  return {
    readings,
    devices: readings.devices.map(({ name, facts }) => ({
      name,
      interfaces: facts.interfaces.map((port) => [port.name, ...port.addresses].join(" ")),
      routes: facts.routes.map(({ to, via, out, source, distance, metric, discard, vrf }) =>
        [to, via ?? "-", out ?? "-", source ?? "-", distance ?? "-", metric ?? "-", discard ?? "-", vrf].join(
          " ",
        ),
      ),
    })),
  };
}

describe("a usual paste", () => {
  it("has prompts, an interface list, a legend of several lines, and routes under a divided network", () => {
    const { devices, readings } = factsIn(`tern-edge# show interfaces
Interface   IP address        Status   Description
wan1        198.51.100.2/30   up       to provider
lan         172.20.16.1 255.255.255.0   up
core        unassigned        down
tern-edge# show routes
Codes: C - connected, S - static, L - local
       U - static route of a user, o - on demand
       * - possible default, + - copied route

S*    0.0.0.0/0 [1/0] via 198.51.100.1
      172.20.0.0/16: 3 subnets, 2 masks
C        172.20.16.0/24 is directly connected, lan
L        172.20.16.1/32 is directly connected, lan
S        172.20.64.0/19 [1/0] via 172.20.16.2
tern-edge#
`);
    expect(devices).toEqual([
      {
        name: "tern",
        interfaces: ["wan1 198.51.100.2/30", "lan 172.20.16.1/24"],
        routes: [
          "0.0.0.0/0 198.51.100.1 - static 1 0 - main",
          "172.20.16.0/24 - lan connected - - - main",
          "172.20.16.1/32 - lan local - - - main",
          "172.20.64.0/19 172.20.16.2 - static 1 0 - main",
        ],
      },
    ]);
    expect([...readings.openWords]).toEqual([]);
    expect(readings.lines.filter(({ fate }) => fate === "doubtful" || fate === "not-understood")).toEqual([]);
  });

  it("holds several devices, each from its prompt on, and a table that was pasted twice counts once", () => {
    const table = (via: string) => `0.0.0.0/0 via ${via} dev wan1\n10.1.0.0/16 via ${via} dev wan1\n`;
    const text = `tern> list routes\n${table("192.0.2.1")}tern> list routes\n${table("192.0.2.1")}gull> list routes\n${table("192.0.2.5")}`;
    expect(factsIn(text).devices.map(({ name, routes }) => [name, routes.length])).toEqual([
      ["tern", 2],
      ["gull", 2],
    ]);
  });

  it("went through a terminal that wrapped it, with control codes and a pager", () => {
    const text = `\u001b[1mS\u001b[0m  172.20.64.0/19 [1/0] via 172.20.16.2, lan\r\n--More--\r        \rS  172.20.96.0/19 [1/0] via 172.20.16.2, lan\r\nS  2001:db8:aaaa:bbbb:cccc:dddd:eeee:0/112 [1/0] via 2001:db8:1:2:3:\r\n4:5:6, lan\r\n`;
    expect(factsIn(text, { words: [["S", "static"]] }).devices[0].routes).toEqual([
      "172.20.64.0/19 172.20.16.2 lan static 1 0 - main",
      "172.20.96.0/19 172.20.16.2 lan static 1 0 - main",
      "2001:db8:aaaa:bbbb:cccc:dddd:eeee:0/112 2001:db8:1:2:3:4:5:6 lan static 1 0 - main",
    ]);
  });
});

describe("tables that name things in their own way", () => {
  it.each([
    [
      "an interface by its address, and a network without a next hop by a word",
      `Network Destination        Netmask          Gateway       Interface  Metric
          0.0.0.0          0.0.0.0      192.168.1.1    192.168.1.20     25
      192.168.1.0    255.255.255.0         On-link      192.168.1.20    281
`,
      ["0.0.0.0/0 192.168.1.1 - - - 25 - main", "192.168.1.0/24 - - connected - 281 - main"],
    ],
    [
      "headings on two lines",
      `Destination        Next        Out
Network            Hop         Interface   Cost
10.1.0.0/16        10.0.0.2    core        5
`,
      ["10.1.0.0/16 10.0.0.2 core - - 5 - main"],
    ],
    [
      "two codes in front of a network, and a second next hop below",
      `Codes: O - OSPF, IA - OSPF inter area, E2 - OSPF external type 2
O E2 10.4.0.0/16 [110/20] via 10.9.9.5, 00:10:11, ge3
                 [110/20] via 10.9.9.9, 00:10:11, ge4
O IA 10.5.0.0/16 [110/30] via 10.9.9.5, 00:10:11, ge3
`,
      [
        "10.4.0.0/16 10.9.9.5 ge3 ospf 110 20 - main",
        "10.4.0.0/16 10.9.9.9 ge4 ospf 110 20 - main",
        "10.5.0.0/16 10.9.9.5 ge3 ospf 110 30 - main",
      ],
    ],
    [
      "next hops below their network, in capital letters",
      `Codes: C - Connected, L - Local, S - Static, ND - Neighbor Discovery
S   2001:DB8:AA::/48 [5/0]
     via FE80::1, port0/0
C   2001:DB8:1::/64 [0/0]
     via port0/0, directly connected
`,
      [
        "2001:db8:aa::/48 fe80::1 port0/0 static 5 0 - main",
        "2001:db8:1::/64 - port0/0 connected 0 0 - main",
      ],
    ],
  ])("%s", (_what, text, routes) => {
    expect(factsIn(text).devices[0].routes).toEqual(routes);
  });

  it.each([
    ["name: lan\n  ipv4: 10.3.0.1/24\n  state: up\n", "lan 10.3.0.1/24"],
    [
      "lan      Link encap:Ethernet\n          inet addr:10.3.0.1  Bcast:10.3.0.255  Mask:255.255.255.0\n",
      "lan 10.3.0.1/24",
    ],
    [
      "eth0: flags=4163<UP>  mtu 1500\n        inet 10.3.0.1  netmask 255.255.255.0  broadcast 10.3.0.255\n",
      "eth0 10.3.0.1/24",
    ],
  ])("an interface above its address: %j", (text, port) => {
    expect(factsIn(text).devices[0].interfaces).toEqual([port]);
  });

  it("says which address of a line is left out", () => {
    const { readings } = factsIn("10.0.0.0/8 via 10.1.1.1 and 10.1.1.5\n");
    expect(readings.lines[0]).toMatchObject({
      fate: "doubtful",
      detail: expect.stringContaining("10.1.1.5 on the same line"),
    });
  });
});

describe("configuration text", () => {
  it("in indented blocks", () => {
    const { devices } = factsIn(`interface wan1
 description to 10.0.0.0/8 via radio
 ip address 198.51.100.2 255.255.255.252
!
interface lan.20
 encapsulation dot1q 20
 vrf forwarding red
 ip address 172.20.16.1/24
 ip helper-address 10.9.9.9
!
router ospf 1
 network 10.0.0.0 0.0.255.255 area 0
!
ip route 0.0.0.0 0.0.0.0 198.51.100.1 name provider track 1
ip route vrf red 10.1.0.0 255.255.0.0 172.20.16.2 200 tag 5
ip route 10.9.0.0 255.255.0.0 null0
no ip route 10.3.0.0 255.255.0.0 10.0.0.2
access-list 10 permit 10.0.0.0 0.255.255.255
`);
    expect(devices[0].interfaces).toEqual(["wan1 198.51.100.2/30", "lan.20 172.20.16.1/24"]);
    expect(devices[0].routes).toEqual([
      "0.0.0.0/0 198.51.100.1 - static - - - main",
      "10.1.0.0/16 172.20.16.2 - static 200 - - red",
      "10.9.0.0/16 - - static - - drop main",
    ]);
  });

  it.each([
    [
      "in paths",
      `set interfaces wan1 address 198.51.100.2/30
set interfaces lan description "harbour 10.0.0.0/8"
set interfaces lan address 172.20.16.1/24
set routing static route 0.0.0.0/0 next-hop 198.51.100.1
set routing static route 10.1.0.0/16 next-hop 172.20.16.2 distance 200
`,
    ],
    [
      "between braces",
      `interfaces {
  wan1 {
    address 198.51.100.2/30;
  }
  lan {
    description "harbour 10.0.0.0/8";
    address 172.20.16.1/24;
  }
}
static {
  route 0.0.0.0/0 {
    next-hop 198.51.100.1;
  }
  route 10.1.0.0/16 next-hop 172.20.16.2 distance 200;
}
`,
    ],
  ])("%s", (_form, text) => {
    const { devices } = factsIn(text);
    expect(devices[0].interfaces).toEqual(["wan1 198.51.100.2/30", "lan 172.20.16.1/24"]);
    expect(devices[0].routes).toEqual([
      "0.0.0.0/0 198.51.100.1 - static - - - main",
      "10.1.0.0/16 172.20.16.2 - static 200 - - main",
    ]);
  });
});

describe("a number that the text does not explain", () => {
  const text = "10.1.0.0/16 via 10.0.0.2 lan 20\n10.2.0.0/16 via 10.0.0.2 lan 20\n";

  it("is asked, with both readings, and its routes wait for the answer", () => {
    const { readings, devices } = factsIn(text);
    expect(devices[0].routes).toEqual([]);
    expect(readings.questions).toMatchObject([{ column: "5", lines: [1, 2] }]);
    expect(
      readings.questions?.[0].candidates.map(({ role, distance, metric }) => [role, distance, metric]),
    ).toEqual([
      ["distance", 20, null],
      ["metric", null, 20],
      ["ignored", null, null],
    ]);
    const answered = factsIn(text, { roles: new Map([["5", "distance"]]) });
    expect(answered.devices[0].routes[0]).toBe("10.1.0.0/16 10.0.0.2 lan - 20 - - main");
    expect(answered.readings.questions).toEqual([]);
  });

  it("is decided by the text where it can be: above 255, or the same for each source", () => {
    expect(factsIn(text.replaceAll(" 20", " 2000")).devices[0].routes[0]).toContain("- 2000");
    const words = [
      ["S", "static"],
      ["O", "ospf"],
    ] as [string, string][];
    const bySource =
      "S 10.1.0.0/16 1 10.0.0.2 lan\nS 10.2.0.0/16 1 10.0.0.2 lan\nO 10.3.0.0/16 110 10.0.0.2 lan\nO 10.4.0.0/16 110 10.0.0.2 lan\n";
    expect(factsIn(bySource, { words }).devices[0].routes[0]).toBe(
      "10.1.0.0/16 10.0.0.2 lan static 1 - - main",
    );
  });
});

describe("large texts", () => {
  it("take linear time: 10,000 lines within a second or two of processor time", () => {
    const lines = Array.from(
      { length: 10_000 },
      (_, n) => `S 10.${n >> 8}.${n & 255}.0/24 [1/0] via 172.20.16.2, port${n % 40}`,
    );
    const before = process.cpuUsage();
    const { devices } = readFiles([{ name: "large.txt", text: lines.join("\n") }], {
      words: [["S", "static"]],
    });
    const { user } = process.cpuUsage(before);
    expect(devices[0].facts.routes).toHaveLength(10_000);
    expect(user / 1000).toBeLessThan(4000);
  });
});
