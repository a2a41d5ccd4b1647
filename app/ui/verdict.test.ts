import { describe, expect, it } from "vitest";
import { routeStates } from "../../core/routes/index.ts";
import { dropCodes } from "../../core/walk/index.ts";
import { adviceFor } from "../../core/words/index.ts";
import { shieldColour, shieldLetter } from "./shield.tsx";
import { endText } from "./verdict.tsx";

describe("every code has words", () => {
  it.each(dropCodes)("a packet that ends as %s has a sign and an advice", (code) => {
    expect(endText(code)).not.toContain("-".repeat(2));
    expect(endText(code).length).toBeGreaterThan(3);
    expect(adviceFor(code)).toMatch(/^[A-Z].{15,}\.$/);
  });

  it("what is no code is told as it is", () => {
    expect(endText("")).toBe("");
  });

  it("a route has one of four states", () => {
    expect([...routeStates].sort()).toEqual(["disabled", "in-use", "standby", "unusable"]);
  });
});

describe("shields", () => {
  it("are told apart by letter and by colour, the colours coming again after six", () => {
    const letters = Array.from({ length: 26 }, (_, g) => shieldLetter(g));
    expect(new Set(letters).size).toBe(26);
    expect(letters[0]).toBe("A");
    expect(shieldColour(6)).toBe(shieldColour(0));
    expect(new Set([0, 1, 2, 3, 4, 5].map(shieldColour)).size).toBe(6);
  });
});
