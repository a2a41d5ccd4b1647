import { checkSync } from "recheck";
import { describe, expect, it } from "vitest";
import { regexpsIn } from "../tests/support/regexps.ts";

/** What reads texts that are not ours: of devices, of files, of people. */
const FOLDERS = [
  "exchange",
  "live",
  "core",
  "server",
  "app/queries",
  "app/search",
  "app/engine",
  "app/routes",
];

/** The checker does not follow lookahead and lookbehind. The comment beside each gives its bound. */
const BOUNDED = new Set([
  // Lines of at most 4,000 characters, gone through from the beginnings of words alone.
  String.raw`(?<![\w-])([A-Za-z][\w-]*(?: [A-Za-z][\w-]*)?)\s*[=:]\s+(?=\S)`,
  String.raw`(^|[\s,;([])([A-Za-z][\w-]*)[=:](?=[^\s:=])`,
  // One character.
  String.raw`[^\t\n\r\u0020-\uD7FF\uE000-\uFFFD\u{10000}-\u{10FFFF}]`,
  // An address.
  String.raw`^::ffff:(?=\d+\.)`,
  // Each mark is examined once: the lookahead is one character.
  String.raw`(<\/?(?:[\w-]{1,60}:)?track(?=[\s>]))`,
]);

/** A repetition with a bound is checked as one without: that is harder, and quicker to check. */
const unbounded = (source: string) => source.replace(/\{\d+,\d{2,}\}|\{\d{2,}\}/g, "*");

describe("regular expressions on foreign text", () => {
  const known = new Map(regexpsIn(FOLDERS).map((found) => [`/${found.source}/${found.flags}`, found]));

  it("are found, and one that takes quadratic time is told", () => {
    expect(known.size).toBeGreaterThan(100);
    expect(checkSync(unbounded("\\s{0,500}=$"), "", { checker: "automaton" }).status).toBe("vulnerable");
  });

  it("take linear time, whatever the text is", () => {
    const slow: string[] = [];
    for (const [text, { file, line, source, flags }] of known) {
      if (BOUNDED.has(source)) continue;
      const { status } = checkSync(unbounded(source), flags, { checker: "automaton", timeout: 30_000 });
      if (status !== "safe") slow.push(`${file}:${line} ${text}: ${status}`);
    }
    expect(slow).toEqual([]);
  }, 120_000);
});
