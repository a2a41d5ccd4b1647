import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { readFiles } from "../../readings.ts";

const words = { S: "static", C: "connected", L: "local" };

/** The routes read from a text table of one device. */
function routesIn(
  text: string,
  told: Record<string, string> = {},
  layouts?: Parameters<typeof readFiles>[1],
) {
  const readings = readFiles([{ name: "tern.txt", text }], { words: Object.entries(told), ...layouts });
  return { routes: readings.devices[0]?.facts.routes ?? [], readings };
}

const short = (text: string, told: Record<string, string> = {}) =>
  routesIn(text, told).routes.map(({ to, via, out, source, distance, metric }) =>
    [to, via ?? "-", out ?? "-", source ?? "-", distance ?? "-", metric ?? "-"].join(" "),
  );

describe("text tables that nobody described", () => {
  it("in columns under a head, with separate masks", () => {
    const text = `
Destination     Mask             Gateway         Port    Cost  Kind
0.0.0.0         0.0.0.0          198.51.100.1    wan1       0  fixed
172.20.16.0     255.255.255.0    0.0.0.0         lan        0  own
172.20.64.0     255.255.224.0    172.20.0.2      core      20  fixed
`;
    expect(short(text, { fixed: "static", own: "connected" })).toEqual([
      "0.0.0.0/0 198.51.100.1 wan1 static - 0",
      "172.20.16.0/24 - lan connected - 0",
      "172.20.64.0/19 172.20.0.2 core static - 20",
    ]);
  });

  it("with what becomes of the packets in place of a next hop, whatever stands over it", () => {
    for (const head of ["towards", "via", "port"]) {
      const text = `kind network ${head} cost\nH 10.48.0.0/12 discard 0\nH 10.1.0.0/16 10.0.0.2 1\n`;
      const [first] = routesIn(text, { H: "static" }).routes;
      expect(first).toMatchObject({ to: "10.48.0.0/12", via: null, out: null, discard: "drop" });
    }
  });

  it("with numbers in brackets, and further next hops on lines of their own", () => {
    const text = `
written  172.20.0.0/16  (5/10)  by 172.20.0.2 on core
                        (5/10)  by 172.20.0.6 on core-b
heard    10.9.0.0/16    (110/30) by 172.20.0.2 on core
`;
    expect(short(text, { written: "static", heard: "ospf" })).toEqual([
      "172.20.0.0/16 172.20.0.2 core static 5 10",
      "172.20.0.0/16 172.20.0.6 core-b static 5 10",
      "10.9.0.0/16 172.20.0.2 core ospf 110 30",
    ]);
  });

  it("in blocks of keys and values", () => {
    const text = `
Destination: 0.0.0.0/0
  Next hop: 198.51.100.1
  Interface: wan1
  Distance: 1
  Source: static

Destination: 172.20.16.0/24
  Interface: lan
  Source: direct

Destination: 2001:db8:20::/48
  Next hop: 2001:db8::2
  Interface: core
  Metric: 20
  Source: static
`;
    expect(short(text)).toEqual([
      "0.0.0.0/0 198.51.100.1 wan1 static 1 -",
      "172.20.16.0/24 - lan connected - -",
      "2001:db8:20::/48 2001:db8::2 core static - 20",
    ]);
  });

  it("with lines that are wrapped behind a long destination", () => {
    const text = `
 K  2001:db8:aaaa:bbbb:cccc:dddd::/96
        via fe80::2, port1
 K  2001:db8:1::/48
        via 2001:db8::9, port2
 A  2001:db8::/64
        port2
`;
    expect(short(text, { K: "static", A: "connected" })).toEqual([
      "2001:db8:aaaa:bbbb:cccc:dddd::/96 fe80::2 port1 static - -",
      "2001:db8:1::/48 2001:db8::9 port2 static - -",
      "2001:db8::/64 - port2 connected - -",
    ]);
  });

  it("between bars, with lines of the frame", () => {
    const text = `
+------------------+---------------+--------+----------+--------+
| network          | next hop      | port   | distance | origin |
+------------------+---------------+--------+----------+--------+
| default          | 198.51.100.1  | wan1   | 10       | hand   |
| 172.20.16.0/24   | -             | lan    | 0        | wire   |
| 172.20.64.0/19   | 172.20.0.2    | core   | 110      | rumour |
+------------------+---------------+--------+----------+--------+
`;
    expect(short(text, { hand: "static", wire: "connected", rumour: "ospf" })).toEqual([
      "0.0.0.0/0 198.51.100.1 wan1 static 10 -",
      "172.20.16.0/24 - lan connected 0 -",
      "172.20.64.0/19 172.20.0.2 core ospf 110 -",
    ]);
  });

  it("as one key=value line a route", () => {
    const text = `
dst=0.0.0.0/0 gw=198.51.100.1 iface=wan1 distance=1 origin=static
dst=172.20.16.0/24 iface=lan origin=connected
dst=172.20.99.0/24 gw=172.20.0.2 iface=core distance=5 metric=7 origin=static
`;
    expect(short(text)).toEqual([
      "0.0.0.0/0 198.51.100.1 wan1 static 1 -",
      "172.20.16.0/24 - lan connected - -",
      "172.20.99.0/24 172.20.0.2 core static 5 7",
    ]);
  });

  it("with marks around its codes, a legend, and what is not in use", () => {
    const text = `
  codes: F = static, W = connected, x = inactive
  F    10.1.0.0/16      via 172.20.0.2   core
  Fx   10.1.0.0/16      via 172.20.0.6   core-b
  W    172.20.0.0/30                     core
`;
    const { routes, readings } = routesIn(text);
    expect(routes.map(({ to, via, source, active }) => [to, via, source, active])).toEqual([
      ["10.1.0.0/16", "172.20.0.2", "static", true],
      ["10.1.0.0/16", "172.20.0.6", "static", false],
      ["172.20.0.0/30", null, "connected", true],
    ]);
    expect(readings.lines.find(({ line }) => line === 2)?.detail).toBe("legend of codes");
  });

  it("in sections of a VRF each", () => {
    const text = `
VRF red:
 S 10.0.0.0/8 172.20.0.2 core
VRF blue:
 S 10.0.0.0/8 172.20.4.2 core
`;
    expect(routesIn(text, words).routes.map(({ vrf, via }) => [vrf, via])).toEqual([
      ["red", "172.20.0.2"],
      ["blue", "172.20.4.2"],
    ]);
  });

  it("under heads that nobody knows: an address there is a next hop; words alone are no part of a route", () => {
    const text = `
 kind   network         towards       port    cost
 H      0.0.0.0/0       172.20.0.21   wan        5
 Q      172.20.16.0/20  172.20.0.21   wan       20
                        172.20.0.25   spare     20
 some words that say nothing
`;
    expect(short(text, { H: "static", Q: "ospf" })).toEqual([
      "0.0.0.0/0 172.20.0.21 wan static - 5",
      "172.20.16.0/20 172.20.0.21 wan ospf - 20",
      "172.20.16.0/20 172.20.0.25 spare ospf - 20",
    ]);
    const { readings } = routesIn(text);
    expect(readings.lines.at(-1)).toMatchObject({
      fate: "known",
      detail: "heading or text without a route",
    });
  });

  it("with arrows, brackets of every kind, and what is discarded", () => {
    const text = `
10.1.0.0 255.255.0.0 -> 172.20.0.2 (core) {static}
172.20.0.0 255.255.255.252 -> core {connected}
10.3.0.0 255.255.0.0 -> nowhere {discard}
`;
    expect(short(text)).toEqual([
      "10.1.0.0/16 172.20.0.2 core static - -",
      "172.20.0.0/30 - core connected - -",
      "10.3.0.0/16 - - - - -",
    ]);
    expect(routesIn(text).routes.at(-1)?.discard).toBe("drop");
  });

  it("parted by semicolons, and with a column that says what is in use", () => {
    const text = `
used;dest;mask;gw;if;ad;met;from
yes;10.1.0.0;255.255.0.0;172.20.0.2;core;1;0;hand
no;10.1.0.0;255.255.0.0;172.20.0.6;core2;9;0;hand
`;
    const { routes } = routesIn(text, { hand: "static" });
    expect(
      routes.map(({ via, out, distance, source, active }) => [via, out, distance, source, active]),
    ).toEqual([
      ["172.20.0.2", "core", 1, "static", true],
      ["172.20.0.6", "core2", 9, "static", false],
    ]);
  });

  it("of interfaces in blocks, whose addresses stand below their names", () => {
    const text = `
interface wan1
  address 198.51.100.2/30
  state up
interface lan
  address 172.20.16.1 255.255.255.0
`;
    const { readings } = routesIn(text);
    expect(readings.devices[0].facts.interfaces.map(({ name, addresses }) => [name, ...addresses])).toEqual([
      ["wan1", "198.51.100.2/30"],
      ["lan", "172.20.16.1/24"],
    ]);
  });

  it("with wildcard masks, and durations that are no interfaces", () => {
    const text = `
 S  172.20.16.0 0.0.0.255  172.20.0.2  3d04h  core
 S  172.20.32.0 0.0.15.255 172.20.0.2  00:12:33 core
`;
    expect(short(text, words)).toEqual([
      "172.20.16.0/24 172.20.0.2 core static - -",
      "172.20.32.0/20 172.20.0.2 core static - -",
    ]);
  });

  it("of interfaces and of neighbours", () => {
    const interfaces = `
Interface  Address            State
wan1       198.51.100.2/30    up
lan        172.20.16.1/24     up
`;
    const neighbours = `
172.20.16.10   00:00:5e:00:53:0a  lan
198.51.100.1   0000.5e00.5301     wan1
`;
    const { readings } = routesIn(interfaces);
    expect(readings.devices[0].facts.interfaces.map(({ name, addresses }) => [name, ...addresses])).toEqual([
      ["wan1", "198.51.100.2/30"],
      ["lan", "172.20.16.1/24"],
    ]);
    expect(routesIn(neighbours).readings.devices[0].facts.neighbours).toEqual([
      { address: "172.20.16.10", hardware: "00:00:5e:00:53:0a", interface: "lan" },
      { address: "198.51.100.1", hardware: "00:00:5e:00:53:01", interface: "wan1" },
    ]);
  });

  it("by a layout that was taught", () => {
    const layout = {
      ironForkLayout: 1 as const,
      name: "ours",
      words: {},
      shapes: {},
      columns: ["word", "metric", "to", "out", "via"] as const,
    };
    const { routes } = routesIn("S 7 10.0.0.0/8 core 172.20.0.2\n", words, {
      layouts: [{ ...layout, columns: [...layout.columns] }],
    });
    expect(routes).toMatchObject([
      { to: "10.0.0.0/8", via: "172.20.0.2", out: "core", metric: 7, source: "static" },
    ]);
  });

  it("asks what a code means, and guesses nothing that no line tells", () => {
    const { routes, readings } = routesIn("Q 10.0.0.0/8 172.20.0.2 core\nQ 10.1.0.0/16 172.20.0.2 core\n");
    expect(routes[0]).toMatchObject({ source: null, distance: null, metric: null, active: null });
    expect([...readings.openWords]).toEqual([["Q", 2]]);
    expect(readings.lines[0]).toMatchObject({ fate: "doubtful", line: 1 });
    expect(readings.lines[0].detail).toContain('unknown code "Q"');
  });

  it("every line that is not empty has a fate, whatever stands in it, and nothing throws", () => {
    const token = fc.oneof(
      fc.ipV4(),
      fc.ipV6(),
      fc.tuple(fc.ipV4(), fc.nat(40)).map(([a, n]) => `${a}/${n}`),
      fc.constantFrom(
        "via",
        "[1/0]",
        "S",
        "*",
        "|",
        "metric",
        "core",
        "wan1:",
        "VRF",
        "=",
        "default",
        "\u0000",
        "\u202e",
        "<script>",
      ),
      fc.string({ maxLength: 8 }),
    );
    const line = fc.array(token, { maxLength: 8 }).map((parts) => parts.join(" "));
    fc.assert(
      fc.property(fc.array(line, { maxLength: 12 }), (lines) => {
        const text = lines.join("\n");
        const { readings } = routesIn(text);
        const told = new Set(readings.lines.map((fate) => fate.line));
        if (readings.devices.length === 0) return;
        for (const [i, raw] of text.split(/\r?\n/).entries()) {
          if (raw.trim() !== "") expect(told.has(i + 1), JSON.stringify(raw)).toBe(true);
        }
      }),
    );
  });
});
