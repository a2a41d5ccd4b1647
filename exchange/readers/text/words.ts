import type { Meanings } from "../meanings.ts";
import { looksLikeInterface, type Tokenizer } from "./tokens.ts";
import { isFiller, isUnit, roleOf } from "./vocabulary.ts";

/** Lines on which a last word must recur to be the name of an interface. */
const RECURS = 2;
/** Rows, and their share, on which a word must recur to belong to the layout. */
const LAYOUT = { rows: 3, share: 0.6 };

export interface Vocabulary {
  isInterface(text: string): boolean;
  /** Whether a word is an interface's name beyond its recurrence. */
  isCertain(text: string): boolean;
  /** Whether a word recurs on so many lines that it belongs to the layout. */
  isLayoutWord(text: string): boolean;
  /** Whether it stands in front of the network on several lines, and is as short as a code. */
  isCode(text: string): boolean;
}

/**
 * The names of interfaces and the words of the layout, found by recurrence: a last word that stands behind networks or
 * next hops on several lines is a name; any other word on most rows belongs to the layout.
 */
export function vocabularyOf(
  lines: readonly string[],
  tokensOf: Tokenizer,
  meanings: Meanings,
  isKnown: (name: string) => boolean,
): Vocabulary {
  const rowsOf = new Map<string, number>();
  const lastOf = new Map<string, number>();
  const firstOf = new Map<string, number>();
  const announced = new Set<string>();
  let rows = 0;
  for (const line of lines) {
    const tokens = tokensOf(line);
    for (const [i, token] of tokens.entries()) {
      const next = tokens[i + 1];
      if (
        next?.shape === "word" &&
        token.shape === "word" &&
        (token.announces || /^(?:dev|oif|iface)$/i.test(token.text)) &&
        roleOf(token.text) === "out"
      )
        announced.add(next.text);
    }
    const at = tokens.findIndex(({ shape }) => shape === "prefix" || shape === "address");
    if (at < 0) continue;
    rows++;
    if (at > 0) firstOf.set(tokens[0].text, (firstOf.get(tokens[0].text) ?? 0) + 1);
    const words = tokens.filter(({ shape }) => shape === "word").map(({ text }) => text);
    for (const word of new Set(words)) rowsOf.set(word, (rowsOf.get(word) ?? 0) + 1);
    const behind = tokens
      .slice(at + 1)
      .filter(
        ({ shape, text, announces }) =>
          shape === "word" &&
          !announces &&
          !isUnit(text) &&
          meanings.of(text) === null &&
          !isFiller(text) &&
          roleOf(text) === null,
      );
    if (behind.some(({ text }) => looksLikeInterface(text))) continue;
    const last = behind.at(-1);
    if (last) lastOf.set(last.text, (lastOf.get(last.text) ?? 0) + 1);
  }
  const isName = (text: string) =>
    (lastOf.get(text) ?? 0) >= RECURS && !(rows > 4 && (rowsOf.get(text) ?? 0) >= rows * 0.95);
  const isInterface = (text: string) => isKnown(text) || announced.has(text) || isName(text);
  return {
    isInterface,
    isCode: (text) => text.length <= 3 && (firstOf.get(text) ?? 0) >= RECURS,
    isCertain: (text) => isKnown(text) || announced.has(text),
    isLayoutWord: (text) =>
      (rowsOf.get(text) ?? 0) >= Math.max(LAYOUT.rows, rows * LAYOUT.share) &&
      !isKnown(text) &&
      !announced.has(text) &&
      !looksLikeInterface(text),
  };
}
