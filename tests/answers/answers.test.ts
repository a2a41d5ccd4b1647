import { readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { answersOf } from "./digest.ts";
import { answeredPlans } from "./plans.ts";

const kept: Record<string, unknown> = JSON.parse(
  readFileSync(join(import.meta.dirname, "answers.json"), "utf8"),
);

// Written by `npm run answers` before what computes them was made faster; see docs/performance.md.
describe("the answers of fifty plans are those that were kept", () => {
  it.each(answeredPlans().map((one) => [one.name, one] as const))("%s", (name, one) => {
    expect(answersOf(one)).toEqual(kept[name]);
  });

  it("and no plan is left out", () => {
    expect(Object.keys(kept).length).toBeGreaterThanOrEqual(50);
  });
});
