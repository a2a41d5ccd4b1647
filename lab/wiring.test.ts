import { describe, expect, it } from "vitest";
import { type Plan, readPlan } from "../core/plan/index.ts";
import { expandRef, rewired, wiringOf } from "./wiring.ts";

function planOf(links: unknown[], more: Record<string, unknown> = {}): Plan {
  const port = (name: string, rest = {}) => ({ name, ...rest });
  const read = readPlan({
    ironFork: 1,
    name: "wired",
    devices: [
      {
        id: "a",
        role: "router",
        site: "north",
        interfaces: [port("one"), port("two"), port("two.7", { parent: "two", vlan: 7 })],
      },
      {
        id: "b",
        role: "router",
        site: "south",
        interfaces: [port("one"), port("two"), port("two.7", { parent: "two", vlan: 7 })],
      },
      { id: "c", role: "router", interfaces: [port("one"), port("off", { enabled: false })] },
    ],
    links,
    ...more,
  });
  if (!read.ok) throw new Error(read.errors[0].message);
  return read.plan;
}

const sets = (plan: Plan, ...failed: string[]) => {
  const { dead, down, dark, mute } = wiringOf(plan, failed);
  return { dead: [...dead], down: [...down].sort(), dark: [...dark].sort(), mute: [...mute].sort() };
};

describe("who loses carrier (rules 2.2 to 2.4)", () => {
  const of = (medium: string) =>
    planOf([{ id: "l", medium, ends: ["a/one", "b/one", ...(medium === "cable" ? [] : ["c/one"])] }]);

  it("both ends of a cable, whatever of it fails", () => {
    expect(sets(of("cable"), "link:l").dark).toEqual(["a/one", "b/one", "c/off"]);
    expect(sets(of("cable"), "interface:a/one").dark).toEqual(["a/one", "b/one", "c/off"]);
    expect(sets(of("cable"), "device:b")).toMatchObject({
      down: ["b/one", "b/two", "b/two.7", "c/off"],
      dead: [],
    });
    expect(sets(of("cable"), "device:b").dark).toContain("a/one");
  });

  it("all ends of a switch that fails; of its ends the one alone", () => {
    expect(sets(of("switch"), "link:l").dark).toEqual(["a/one", "b/one", "c/off", "c/one"]);
    expect(sets(of("switch"), "interface:a/one").dark).toEqual(["a/one", "c/off"]);
  });

  it("nobody on a circuit, which is dead", () => {
    expect(sets(of("circuit"), "link:l")).toEqual({
      dead: ["l"],
      down: ["c/off"],
      dark: ["c/off"],
      mute: [],
    });
    expect(sets(of("circuit"), "interface:b/one").dark).toEqual(["b/one", "c/off"]);
  });
});

describe("what rides on what (rules 15.2 and 16)", () => {
  const tagged = planOf([
    { id: "trunk", medium: "circuit", ends: ["a/two", "b/two"] },
    { id: "tag", medium: "circuit", ends: ["a/two.7", "b/two.7"] },
  ]);

  it("a tag goes dark with its parent, and is mute where its parent's link is dead", () => {
    expect(sets(tagged, "interface:a/two").dark).toEqual(["a/two", "a/two.7", "c/off"]);
    expect(sets(tagged, "link:trunk")).toMatchObject({ dark: ["c/off"], mute: ["a/two.7", "b/two.7"] });
  });

  it("a link is dead with the one that it rides on, and when that one has lost an end", () => {
    const plan = planOf([
      { id: "line", medium: "cable", ends: ["a/one", "b/one"] },
      { id: "service", medium: "circuit", ends: ["a/two", "c/one"], over: ["line"] },
      { id: "above", medium: "circuit", ends: ["b/two"], over: ["service"] },
    ]);
    expect(sets(plan, "link:line").dead).toEqual(["line", "service", "above"]);
    expect(sets(plan, "interface:b/one").dead).toEqual(["service", "above"]);
  });

  it("a risk and a site take along what they name", () => {
    const plan = planOf([{ id: "l", ends: ["a/one", "b/one"] }], {
      risks: [{ id: "room", of: ["link:l", "site:north"] }],
    });
    expect(expandRef(plan, "risk:room")).toEqual(["link:l", "device:a"]);
    expect(sets(plan, "risk:room")).toMatchObject({
      dead: ["l"],
      down: ["a/one", "a/two", "a/two.7", "c/off"],
    });
  });

  it("what changes from one to the next is told once, each way", () => {
    const [well, failed] = [wiringOf(tagged, []), wiringOf(tagged, ["link:trunk", "interface:a/two"])];
    const there = rewired(well, failed);
    const back = rewired(failed, well);
    expect(there).toEqual({
      ...{ killed: ["trunk"], revived: [], heard: [], lit: [], deafened: [], reached: [] },
      ...{ muted: ["a/two.7", "b/two.7"], dark: ["a/two", "a/two.7"] },
    });
    expect([back.revived, back.heard, back.lit]).toEqual([there.killed, there.muted, there.dark]);
  });
});
