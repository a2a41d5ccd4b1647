import { describe, expect, it } from "vitest";
import { durationText } from "../../../core/plan/index.ts";

import { parseDuration } from "./durations.ts";

describe("a time that is typed", () => {
  it.each([
    ["2 s", 2000],
    ["2s", 2000],
    ["1.5 s", 1500],
    ["1,5 s", 1500],
    ["500 ms", 500],
    ["0.4 ms", 0.4],
    ["1 min", 60_000],
    ["2 hours", 7_200_000],
    ["0", 0],
  ])("%s is %d ms", (text, ms) => expect(parseDuration(text)).toBe(ms));

  it.each(["2000", "", "s", "-1 s", "1 s 2", "1e3 s", "∞", "9999999999 s", "2 weeks"])("%j is none", (text) =>
    expect(parseDuration(text)).toBeNull(),
  );

  it("is the one that was shown", () => {
    for (let ms = 0; ms <= 400_000; ms += ms < 2000 ? 1 : 37)
      expect(parseDuration(durationText(ms))).toBe(ms);
  });
});
