import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { checks } from "../../core/findings/index.ts";
import { dropCodes } from "../../core/walk/index.ts";
import { collectSentences, sentencesPage } from "./collect.ts";

describe("the page of all sentences", () => {
  const found = collectSentences();

  it("is current; after a change of sentences run `npm run sentences` and read it", () => {
    expect(readFileSync(new URL("../../docs/sentences.md", import.meta.url), "utf8")).toBe(
      sentencesPage(found),
    );
  });

  it("has every finding and almost every lost packet", () => {
    expect(checks.map(({ code }) => code).filter((code) => !found.findings.has(code))).toEqual([]);
    // Their plans are in forwarding.test.ts.
    const rare = [
      "no-source",
      "wrong-device",
      "link-local",
      "hop-limit",
      "beyond-outline",
      "virtual-not-accepted",
    ];
    expect(dropCodes.filter((code) => !found.drops.has(code) && !rare.includes(code))).toEqual([]);
  });

  it("has no sentence with a hole in it", () => {
    const page = sentencesPage(found);
    expect(page).not.toMatch(/undefined|null|NaN|\[object|\(\)|\s,|\.\./);
  });
});
