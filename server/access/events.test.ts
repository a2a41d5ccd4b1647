import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { actionsOf, eventNames, eventOf, eventText } from "./events.ts";
import { needs } from "./needs.ts";

describe("events of the audit log", () => {
  it("name every address that takes changes", () => {
    for (const { path, post } of needs) {
      if (post === null || post === "reads") continue;
      const own = eventNames.flatMap(actionsOf).filter((action) => {
        const [address] = action.replace("POST ", "").split(": ");
        return address === path;
      });
      expect(own.length, path).toBeGreaterThan(0);
    }
  });

  it("are all documented", () => {
    const text = readFileSync(new URL("../../docs/api.md", import.meta.url), "utf8");
    for (const name of eventNames) expect(text).toContain(`\`${name}\``);
  });

  it("have a sentence with and without detail", () => {
    const tick = "POST /plans/:plan/changes/:x: tick";
    expect(eventOf(tick).name).toBe("change.step-done");
    expect(eventText(tick, { item: "step 3 of visit 2", device: "Office core 2", change: "4" })).toBe(
      "completed step 3 of visit 2 (Office core 2) of change 4",
    );
    expect(eventText(tick, {})).toBe("completed");
    expect(eventText("POST /plans/:plan/edit: edit", { edit: "Add 0.0.0.0/0" })).toBe(
      "edited the plan: Add 0.0.0.0/0",
    );
    expect(eventOf("POST /plans/:plan/exchange/devices: read").name).toBe("polling.started");
    expect(eventText("POST /somewhere: else", { edit: "{name}" })).toBe("sent a request");
    // User text is shown literally, never expanded.
    expect(eventText("POST /plans: new", { name: "[{role}]" })).toBe("created the plan [{role}]");
  });
});
