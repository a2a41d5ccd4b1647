import { describe, expect, it } from "vitest";
import { NetworkModel } from "../../core/scenario/index.ts";
import { demoPlan } from "../../tests/support/plans.ts";
import { layoutOf } from "../drawing/layout.server.ts";
import { conditionsOf } from "./conditions.ts";
import { frameOf } from "./frame.ts";
import { mapAnswer } from "./map.ts";

function frame(plan: string, ...down: string[]) {
  const model = NetworkModel.compile(demoPlan(plan));
  return frameOf(model, conditionsOf(model, { down, moment: null }));
}

describe("the drawing", () => {
  it("leaves out links that only carry others, and has every other one", async () => {
    const plan = demoPlan("cases/two-lines-in-one-duct");
    const text = JSON.stringify(await layoutOf(plan));
    expect(text).not.toContain("north-road");
    for (const { id } of plan.links.filter(({ ends }) => ends.length > 0)) expect(text).toContain(id);
  });
});

describe("the map", () => {
  it("tells which of a pair carries, and shows no interface as down for standing by", () => {
    const model = NetworkModel.compile(demoPlan("marrow-bay"));
    const at = (...down: string[]) => {
      const looked = { down, moment: null };
      const { pairs, links } = mapAnswer(model, looked, { flow: null, from: null, to: null } as never);
      const ends = links.flatMap((link) => link.ends.filter(({ device }) => device.startsWith("hall-fw")));
      return { active: pairs[0].active, down: ends.filter(({ up }) => !up).map(({ device }) => device) };
    };
    expect(at()).toEqual({ active: ["hall-fw-1"], down: [] });
    const failed = at("device:hall-fw-1");
    expect(failed.active).toEqual(["hall-fw-2"]);
    expect(failed.down.filter((device) => device === "hall-fw-1")).toHaveLength(3);
  });
});

describe("what stands around every page", () => {
  it("puts a pair's gateway at the member that is active", () => {
    const at = (...down: string[]) =>
      frame("cases/pair-that-forgets", ...down).gateways.map(({ device }) => device);
    expect(at()).toEqual(["wall-a"]);
    expect(at("device:wall-a")).toEqual(["wall-b"]);
    expect(at("device:wall-b")).toEqual(["wall-a"]);
  });

  it("offers to fail whole what is not drawn: sites, risks, links that only carry others", () => {
    expect(frame("cases/two-lines-in-one-duct").fates).toEqual([
      { ref: "link:north-road", label: "The duct under North Road" },
    ]);
    expect(frame("marrow-bay").fates.map(({ ref }) => ref)).toContain("site:office");
  });
});
