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
  // Anchored at the beginning of a line; every part has a bound of its own.
  String.raw`^\s{0,40}([\p{L}][\p{L}\d ./_()-]{0,40}?)\s{0,20}(?::|=|\.{2,40}:?)(?=\s+\S)`,
  String.raw`^\s{0,3}(?:[[<(]{1,2})?(?:[\w.-]{1,40}@)?([A-Za-z][\w.-]{1,62})(?:[:~ ][\w/~.-]{0,60})?(?:[\])]{1,2})?(?:\([\w./-]{1,40}\))?\s?(?:[#$%](?=\s|$|[a-z])|>(?=\s?[a-z]|\s*$))(.*)$`,
  String.raw`^([*>+]{0,2})([[({]\p{L}[\p{L}-]{1,20})(?=\/\d{1,3}(?:\/\d{1,10})?[\])}])`,
  String.raw`^[A-Za-z]{1,30}(?:[-_][A-Za-z0-9]{1,20}){0,4}[/.]\d{1,9}(?:[/.:]\d{1,9}){0,8}$`,
  String.raw`^\W{0,3}(?:<\d{1,3}>)?(?:\d{4}[-/]\d{2}[-/]\d{2}|\d{1,2}[/.]\d{1,2}[/.]\d{2,4}\s+\d{1,2}:\d{2}|(?:mon|tue|wed|thu|fri|sat|sun)\w{0,6},?\s+\w{3}|(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]{0,6}\s+\d{1,2}\b|\d{1,2}:\d{2}:\d{2}[.,]?\d{0,6}\s)`,
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
