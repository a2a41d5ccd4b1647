import { describe, expect, it } from "vitest";
import { demoPlan } from "../../tests/support/plans.ts";
import { writePlanText } from "../plan-text.ts";
import { readFiles } from "../readings.ts";
import { mergeInto } from "./merge.ts";
import { rebuildPlan } from "./plan.ts";

const demo = demoPlan("marrow-bay");
const file = (name: string, text: string) => ({ name, text });

describe("plan documents among what is given", () => {
  it.each(["yaml", "json"] as const)("go in with nothing lost, as %s", (as) => {
    const readings = readFiles([file(`plan.${as}`, writePlanText(demo, as))]);
    const outcome = rebuildPlan(readings, demo.name);
    if (!outcome.ok) throw new Error(outcome.errors[0].message);
    expect(outcome.rebuilt.leftOut).toEqual([]);
    expect({ ...outcome.rebuilt.plan, description: demo.description }).toEqual(demo);
    const merged = mergeInto(demo, outcome.rebuilt);
    expect(merged.ok && merged.plan).toEqual(demo);
  });

  it("are merged into one another, and what stands otherwise is told", () => {
    const half = (from: number, to: number) => ({
      ironFork: 1,
      name: "half",
      devices: demo.devices.slice(from, to),
    });
    const [first] = demo.devices;
    const other = { ...half(1, 3), devices: [{ ...first, label: "Otherwise" }, ...demo.devices.slice(1, 3)] };
    const readings = readFiles([
      file("a.json", JSON.stringify(half(0, 2))),
      file("b.json", JSON.stringify(other)),
    ]);
    const outcome = rebuildPlan(readings, "both");
    if (!outcome.ok) throw new Error(outcome.errors[0].message);
    const { plan, leftOut } = outcome.rebuilt;
    expect(plan.devices.map(({ id }) => id)).toEqual(demo.devices.slice(0, 3).map(({ id }) => id));
    expect(plan.devices[0].label).toBe(first.label);
    expect(leftOut).toEqual([
      { path: `devices ${first.id}`, message: "the device differs in b.json; the first one is kept" },
    ]);
  });

  it("stand beside what devices say, and a broken one is told and stops nothing", () => {
    const readings = readFiles([
      file("plan.yaml", "ironFork: 1\nname: [\n"),
      file("puffin.txt", "static 10.1.0.0/16 via 10.0.0.2 on lan\n"),
    ]);
    expect(readings.lines.find(({ file: name }) => name === "plan.yaml")).toMatchObject({
      fate: "not-understood",
    });
    const outcome = rebuildPlan(readings, "x");
    expect(outcome.ok && outcome.rebuilt.plan.devices.some(({ id }) => id === "puffin")).toBe(true);
  });
});
