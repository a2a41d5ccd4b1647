import { Meanings } from "../meanings.ts";
import { tokensOf } from "./tokens.ts";

const PAIR = /(^|[\s,;(])([A-Za-z*>+&!?#@^~]{1,3}|[A-Za-z]\d)\s*(?:-|=|:|–)\s*([A-Za-z][A-Za-z0-9 -]*)/g;
const own = new Meanings();

/** The meaning that a legend's words come to: that of the first of them that has one. */
function meaningIn(words: string): string | null {
  for (const word of words.trim().split(/\s+/)) {
    const meaning = own.of(word.replace(/^not-?$/i, ""));
    if (meaning !== null) return meaning;
    if (/^(in-?active|unused)$/i.test(word)) return "inactive";
  }
  return null;
}

/** What a legend in the text says of its codes: pairs such as "S - static". Lines with an address are none. */
export function legendOf(lines: readonly string[]): { meanings: [string, string][]; lines: Set<number> } {
  const meanings: [string, string][] = [];
  const found = new Set<number>();
  for (const [i, line] of lines.entries()) {
    if (tokensOf(line).some(({ shape }) => shape === "prefix" || shape === "address")) continue;
    for (const [, , code, words] of line.matchAll(PAIR)) {
      const meaning = meaningIn(words);
      if (meaning === null) continue;
      meanings.push([code, meaning]);
      found.add(i);
    }
  }
  return { meanings, lines: found };
}
