import { describe, expect, it } from "vitest";
import { LIMITS, readPlan } from "../core/plan/index.ts";
import { timed } from "../tests/support/cpu.ts";
import { planOf } from "../tests/support/plans.ts";
import { type Conversation, exchangesOf } from "./capture/index.ts";
import { readInterfaceList } from "./interface-list.ts";
import { readPlanText } from "./plan-text.ts";
import { readFiles } from "./readings.ts";

const said = (text: string) => {
  const { result: reading, ms } = timed(() => readPlanText(text));
  return { ms, text: reading.ok ? "" : reading.errors[0].message };
};

describe("documents that are meant to do harm", () => {
  it.each([
    ["blank lines without end", "\n".repeat(1_000_000), /empty/],
    ["blank lines before nothing", `${"\n".repeat(200_000)}x`, /the line `ironFork: 1` is missing/],
    ["groups in groups", `ironFork: 1\nx: ${"{a: ".repeat(5000)}`, /nested deeper/],
    ["lists in lists on one line", `ironFork: 1\nx:\n${"- ".repeat(10_000)}`, /nested deeper/],
    ["lists in lists, JSON", "[".repeat(200_000), /nested deeper/],
    [
      "JSON that breaks off deep inside",
      `{"ironFork":1,"a":${"[".repeat(20)}`,
      /ends unexpectedly at line 1/,
    ],
    [
      "aliases of aliases",
      `ironFork: 1\na: &a [1]\nb: [${"*a,".repeat(5000)}]`,
      /expands more than 100 aliases/,
    ],
    ["an unknown alias", "ironFork: 1\na: *nothing", /cannot be read: Unresolved alias/],
    ["a key that stands twice", "ironFork: 1\nname: a\nname: b", /the key name appears twice/],
    ["a key that is a list", "ironFork: 1\n? [a]\n: b", /line 2, column 3: keys must be text/],
    [
      "fifty thousand keys",
      `ironFork: 1\n${Array.from({ length: 50_000 }, (_, i) => `k${i}: 1\n`).join("")}`,
      /missing/,
    ],
    ["a zero byte in JSON", '{"ironFork":1,"name":"a\\u0000b"}', /zero byte or half a character/],
    ["half a character", '{"ironFork":1,"name":"a\\ud800b"}', /zero byte or half a character/],
  ])("%s", (_what, text, sentence) => {
    const { ms, text: message } = said(text);
    expect(message).toMatch(sentence);
    expect(ms).toBeLessThan(6000);
  });

  it("more than a plan may hold is refused with the number", () => {
    const flows = Array.from({ length: LIMITS.flows + 1 }, (_, i) => ({
      id: `f${i}`,
      from: "r",
      to: "10.0.0.1",
    }));
    const reading = readPlan({ ironFork: 1, name: "x", devices: [{ id: "r", role: "router" }], flows });
    expect(reading.ok ? "" : reading.errors[0].message).toBe(
      `the plan has ${LIMITS.flows + 1} flows; the limit is ${LIMITS.flows}. Divide it into several plans`,
    );
  });
});

/** How much longer ten times as much takes: near ten where time grows with the input, near a hundred where with its square. */
function growth(run: (size: number) => void, size: number): number {
  const of = (n: number) => timed(() => run(n)).ms;
  of(size);
  const small = Math.min(of(size), of(size), of(size));
  const large = Math.min(of(size * 10), of(size * 10));
  return large / Math.max(small, 1);
}

describe("much of one thing takes time in proportion", () => {
  const plan = planOf({ devices: [{ id: "here", role: "router" }] });

  it.each([
    ["one interface each of many devices", (i: number) => `d${i}, lan, 10.${(i >> 8) & 255}.${i & 255}.1/24`],
    ["many interfaces of one new device", (i: number) => `new, e${i}, 10.${(i >> 8) & 255}.${i & 255}.1/24`],
    [
      "many interfaces of one that is there",
      (i: number) => `here, e${i}, 10.${(i >> 8) & 255}.${i & 255}.1/24`,
    ],
  ])("a list of %s", (_what, line) => {
    const list = (n: number) =>
      readInterfaceList(Array.from({ length: n }, (_, i) => line(i)).join("\n"), plan, null);
    expect(list(10_000).lines).toHaveLength(10_000);
    expect(growth(list, 1000)).toBeLessThan(40);
  });

  it.each([
    ["letters", (n: number) => `10.0.0.0/8 ${"x".repeat(n)}`],
    ["words", (n: number) => `10.0.0.0/8 ${"xy ".repeat(n / 3)}`],
    ["spaces", (n: number) => `10.0.0.0/8 key${" ".repeat(n)}: x`],
    ["numbers", (n: number) => `10.0.0.0/8 ${"1 ".repeat(n / 2)}`],
    ["dots and colons", (n: number) => `10.0.0.0/8 ${"1.".repeat(n / 4)}${"a:".repeat(n / 4)}`],
    ["marks", (n: number) => `10.0.0.0/8 ${"[|,=:".repeat(n / 5)}`],
  ])("one line of a text table, of %s", (_what, line) => {
    const read = (n: number) => readFiles([{ name: "x.txt", text: line(n) }]);
    expect(growth(read, 8000)).toBeLessThan(40);
  });

  it("unanswered datagrams in a capture", () => {
    const run = (n: number) => {
      const packets = Array.from({ length: n }, (_, i) => ({
        atMs: i * 0.1,
        source: i % 2 ? "10.0.0.1" : "10.0.0.2",
        destination: i % 2 ? "10.0.0.2" : "10.0.0.1",
        protocol: "udp" as const,
        sourcePort: i % 2 ? 1024 + (i % 60_000) : 53,
        destinationPort: i % 2 ? 53 : 1,
        fromHardware: "",
        toHardware: "",
        echo: null,
        tcp: null,
      }));
      const conversation = { client: "10.0.0.1", server: "10.0.0.2", protocol: "udp", port: 53, packets };
      exchangesOf(conversation as unknown as Conversation);
    };
    expect(growth(run, 3000)).toBeLessThan(40);
  });
});

describe("XML that breaks off", () => {
  it("in an instruction that is never closed is told with its line, and stops no other file", () => {
    const broken =
      '<data>\n  <interfaces xmlns="urn:ietf:params:xml:ns:yang:ietf-interfaces">\n  </interfaces>\n</data>\n<?read';
    const files = ["a.xml", "b.xml"].map((name) => ({ name, text: name === "a.xml" ? broken : "<data/>" }));
    const { lines } = readFiles(files);
    const [told] = lines.filter(({ file }) => file === "a.xml");
    expect(told).toMatchObject({ line: 5, fate: "not-understood" });
    expect(told.detail).toMatch(/not valid XML/);
    expect(lines.some(({ file }) => file === "b.xml")).toBe(true);
  });
});
