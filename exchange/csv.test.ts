import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { writeCsv } from "./csv.ts";

/** A reader by the grammar of RFC 4180 section 2, to hold the writer against. */
function readCsv(text: string): string[][] {
  const rows: string[][] = [];
  let row: string[] = [];
  let at = 0;
  while (at < text.length) {
    let value = "";
    if (text[at] === '"') {
      for (at++; !(text[at] === '"' && text[at + 1] !== '"'); at++) {
        if (text[at] === '"') at++;
        value += text[at];
      }
      at++;
    } else while (at < text.length && text[at] !== "," && !text.startsWith("\r\n", at)) value += text[at++];
    row.push(value);
    if (text[at] === ",") {
      at++;
      continue;
    }
    expect(text.slice(at, at + 2)).toBe("\r\n");
    at += 2;
    rows.push(row);
    row = [];
  }
  return rows;
}

describe("RFC 4180", () => {
  it("is read back as it was written", () => {
    const cell = fc.oneof(fc.string(), fc.constantFrom('"', "a,b", "line\nbreak", "\r\n", '""', ""));
    fc.assert(
      fc.property(fc.array(fc.array(cell, { minLength: 1, maxLength: 4 }), { maxLength: 6 }), (rows) => {
        expect(readCsv(writeCsv(rows))).toEqual(rows);
      }),
    );
    expect(writeCsv([["a", 'say "b"', "c,d"]])).toBe('a,"say ""b""","c,d"\r\n');
  });
});
