import { describe, expect, it } from "vitest";
import { demoPlan, planOf } from "../../tests/support/plans.ts";
import { commands } from "./commands.ts";
import { modelOf } from "./engines.ts";
import { suggest } from "./question.ts";

describe("the question field", () => {
  const router = (id: string, label: string) => ({ id, label, role: "router" });
  const model = modelOf(
    planOf({
      devices: [router("core-10", "Core 10"), router("old-core-1", "Old core 1"), router("core-1", "Core 1")],
    }),
    "question test",
  );
  const failing = (text: string) => suggest(model, text, []).map(({ fail }) => fail);

  it("takes the exact name first, then what begins so, then the rest", () => {
    expect(failing("fail core 1")).toEqual(["device:core-1", "device:core-10", "device:old-core-1"]);
    expect(failing("fail core-1")[0]).toBe("device:core-1");
    expect(suggest(model, "core 1", []).map(({ device }) => device)).toEqual([
      "core-1",
      "core-10",
      "old-core-1",
    ]);
  });

  it("reaches every page and command by its name or another word for it, and stays in the plan", () => {
    for (const { label, page, params = {} } of commands)
      expect(suggest(model, label, []).find((found) => found.label === label)).toMatchObject({
        page,
        params,
      });
    expect(suggest(model, "timeline", [])[0]).toMatchObject({ page: "timeline" });
    expect(suggest(model, "10.0.0.0/8", []).map(({ page }) => page)).toEqual(["routes"]);
  });

  it("restores only what is down", () => {
    const demo = modelOf(demoPlan("marrow-bay"), "question demo");
    expect(suggest(demo, "restore tern", ["link:tern-north"]).map(({ restore }) => restore)).toEqual([
      "link:tern-north",
    ]);
  });
});
