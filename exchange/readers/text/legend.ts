import { Meanings, protocolNames } from "../meanings.ts";
import { columnsOf } from "./columns.ts";
import type { Shape, Tokenizer } from "./tokens.ts";
import { plain, roleOf } from "./vocabulary.ts";

/** A code, a separator, and the beginning of its meaning. */
const PAIR =
  /(?<![\p{L}\p{N}_.-])([\p{L}*>+&!?#@^~%=]{1,3}|\p{L}\d|\p{L}{1,2}\/\p{L}\d?)(?:\s{0,3}(?:[=:–—]|->|=>)\s{0,3}|\s{1,3}-\s{0,3}|(?<=(?<!\p{L})\S{1,2})-)(?=[\p{L}("'])/gu;
const OPENER =
  /^\s*(?:codes?|legends?|flags?|key|abbreviations?|legende|abkurzungen|kennzeichen|codici|legenda|leyenda|codigos?|drapeaux|marks?|symbols?)\b/;

/** The words that say that a route is not used, or that a mark says nothing about its use. */
const UNUSED =
  /\b(?:in-?active|unused|not (?:in use|used|selected|active|installed)|backup|standby|hidden|inaktiv|inactif|inactiv[ao]|inattiv[ao]|inativ[ao])\b/;
const USED =
  /\b(?:active|in use|used|selected|installed|best|fib|aktiv|actif|activ[ao]|attiv[ao]|ativ[ao])\b/;

/** The meaning that a legend's words amount to. Null for a single word that could be anything. */
function meaningIn(words: string, code: string): string | null {
  const text = plain(words.replace(/[,;.)\]]{1,3}\s*$/, ""));
  if (UNUSED.test(text)) return "inactive";
  for (const word of text.split(/[\s,()]+/)) {
    const meaning = own.of(word);
    if (meaning !== null) return meaning;
  }
  if (USED.test(text)) return "active";
  const named = text.split(/[\s,()]+/).find((word) => protocolNames.test(word));
  if (named) return named;
  return /\p{L}/u.test(code) ? (/^[\p{L}-]{2,30}/u.exec(text)?.[0] ?? "ignored") : "ignored";
}
const own = new Meanings();

interface Legend {
  readonly meanings: readonly (readonly [code: string, meaning: string])[];
  /** Positions of its lines. */
  readonly lines: ReadonlySet<number>;
}

/**
 * The legend of a text: pairs such as "S - static" on one or several lines, or a code and its meaning on each line below
 * a word such as "Codes". Lines with an address are no part of it.
 */
export function legendOf(lines: readonly string[], tokensOf: Tokenizer): Legend {
  const meanings: [string, string][] = [];
  const found = new Set<number>();
  let isOpen = false;
  for (const [i, line] of lines.entries()) {
    if (line.trim() === "") {
      if (i > 0 && !found.has(i - 1)) isOpen = false;
      continue;
    }
    if (line.length > 500 || tokensOf(line).some(({ shape, text }) => isAddress(shape, text))) {
      isOpen = false;
      continue;
    }
    const opens = OPENER.test(plain(line).slice(0, 40));
    const pairs = pairsOf(line);
    const listed = (isOpen || found.has(i - 1)) && columnsOf(line) === null ? listedPair(line) : null;
    const known = pairs.filter(([code, words]) => roleOf(code) === null && knownMeaning(words));
    const isLegend =
      (opens &&
        ((pairs.length > 0 && roleOf(openerOf(line)) === null) ||
          pairs.length > 1 ||
          openerOf(line) ===
            plain(line)
              .trim()
              .replace(/[:\s]{1,9}$/, ""))) ||
      pairs.length >= 2 ||
      (pairs.length === 1 &&
        (known.length === 1 || isOpen || found.has(i - 1)) &&
        roleOf(pairs[0][0]) === null) ||
      (listed !== null && (isOpen || knownMeaning(listed[1])));
    if (!isLegend || (!opens && !isOpen && !found.has(i - 1) && known.length === 0)) {
      isOpen = false;
      continue;
    }
    isOpen = true;
    found.add(i);
    for (const [code, words] of pairs.length > 0 ? pairs : listed ? [listed] : []) {
      const meaning = meaningIn(words, code);
      if (meaning !== null) meanings.push([code, meaning]);
    }
  }
  return { meanings, lines: found };
}

/** The first word of a line. */
const openerOf = (line: string) => /^\s*(\p{L}*)/u.exec(plain(line))?.[1] ?? "";

const knownMeaning = (words: string) => {
  const text = plain(words);
  return (
    UNUSED.test(text) ||
    text.split(/[\s,()]+/).some((word) => own.of(word) !== null || protocolNames.test(word))
  );
};

const isAddress = (shape: Shape, text: string) =>
  /address|pair/.test(shape) || (shape === "prefix" && /\d/.test(text));

/** The pairs of a line, each with the words up to the next one. */
function pairsOf(line: string): [string, string][] {
  const found = [...line.matchAll(PAIR)];
  return found.map((match, i) => [
    match[1],
    line.slice(match.index + match[0].length, found[i + 1]?.index ?? line.length).trim(),
  ]);
}

/** A line of a vertical list: a code, two or more spaces, and its meaning. */
function listedPair(line: string): [string, string] | null {
  const match = /^\s{0,20}(\S{1,3})(?:\s{2,20}|\t)(\p{L}[\p{L}\s().,-]{1,80})$/u.exec(line.trimEnd());
  return match ? [match[1], match[2]] : null;
}
