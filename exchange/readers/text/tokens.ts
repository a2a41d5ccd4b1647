import { lengthOfMask, parseAddress, parseInterfaceAddress } from "../../../core/address/index.ts";

/** What a token can be by its shape alone. */
export type Shape =
  | "prefix"
  | "address"
  | "mask"
  | "length"
  | "pair"
  | "number"
  | "duration"
  | "hardware"
  | "word"
  | "symbol";

export interface Token {
  /** Without brackets, quotes and trailing marks. */
  readonly text: string;
  readonly shape: Shape;
  /** Its place in the line, and the one after it. */
  readonly start: number;
  readonly end: number;
  readonly bracketed: boolean;
  /** Whether a colon or an equals sign follows: it announces the next token. */
  readonly announces: boolean;
}

const DURATION =
  /^(?:\d{1,4}:\d{2}(?::\d{2})?(?:\.\d{1,6})?|(?:\d{1,9}[ywdhms]){1,6}|\d{1,9}(?:\.\d{1,6})?(?:sec|secs|min|mins|s|ms|m|h|d|w)|never|\d{4}-\d{2}-\d{2}(?:T[\d:.]{4,15}Z?)?)$/i;
const HARDWARE = /^(?:[0-9a-f]{2}[:-]){5}[0-9a-f]{2}$|^(?:[0-9a-f]{4}\.){2}[0-9a-f]{4}$/i;
const HEX_MASK = /^0x[0-9a-f]{8}$/i;

/** The length of a mask, also in hexadecimal or as its complement; null for other text. */
export function lengthOfAnyMask(text: string): number | null {
  if (HEX_MASK.test(text)) {
    const bits = Number.parseInt(text, 16);
    return lengthOfMask([24, 16, 8, 0].map((shift) => (bits >>> shift) & 255).join("."));
  }
  const straight = lengthOfMask(text);
  if (straight !== null) return straight;
  const octets = text.split(".").map(Number);
  if (octets.length !== 4 || octets.some((n) => !Number.isInteger(n) || n < 0 || n > 255)) return null;
  return lengthOfMask(octets.map((n) => 255 - n).join("."));
}

/** An address with its length, the length also as a dotted mask; null for other text. */
export function readPrefix(text: string) {
  const slash = text.indexOf("/");
  if (slash < 0) return null;
  const length = text.slice(slash + 1);
  const dotted = length.includes(".") || length.startsWith("0x") ? lengthOfAnyMask(length) : null;
  return parseInterfaceAddress(dotted === null ? text : `${text.slice(0, slash)}/${dotted}`);
}

function shapeOf(text: string): Shape {
  if (/^default$/i.test(text)) return "prefix";
  if (HARDWARE.test(text)) return "hardware";
  if (readPrefix(text)) return "prefix";
  // A link-local next hop may name its interface behind a percent sign.
  if (parseAddress(text.split("%")[0])) return "address";
  if (HEX_MASK.test(text)) return "mask";
  if (/^\/\d{1,3}$/.test(text)) return "length";
  if (/^\d{1,10}\/\d{1,10}$/.test(text)) return "pair";
  if (/^\d{1,15}$/.test(text)) return "number";
  if (DURATION.test(text)) return "duration";
  return /[\p{L}\p{N}]/u.test(text) ? "word" : "symbol";
}

const OPEN = /^["'`[({<@]/;
const CLOSE = /["'`\])}>]$/;
/** Signs in front of a token that are codes by themselves. */
const SIGNS = /^[*>+!~&?#^=-]{1,3}(?=[\w[({])/;

/** A colon or an equals sign that stands alone belongs to the word before it. */
function announced(tokens: readonly Token[]): Token[] {
  const joined: Token[] = [];
  for (const token of tokens) {
    const before = joined.at(-1);
    if (/^(?:=|:|={2}|:=)$/.test(token.text) && before?.shape === "word")
      joined[joined.length - 1] = { ...before, announces: true };
    else joined.push(token);
  }
  return joined;
}

interface Piece {
  readonly text: string;
  readonly start: number;
}

/** Reads the tokens of lines, each line once. */
export type Tokenizer = (line: string) => readonly Token[];

/** The tokens of a line: separated by spaces, bars, commas and semicolons, without brackets and trailing marks. */
export function tokensOf(line: string): Token[] {
  const tokens: Token[] = [];
  for (const found of line.matchAll(/"[^"\n]{1,200}"|[^\s|,;]+/g))
    for (const piece of piecesOf(found[0], found.index)) {
      const token = tokenOf(piece);
      if (token) tokens.push(token);
    }
  return announced(tokens).map((token, i, all) => asMask(token, all[i - 1]));
}

/** The parts of a chunk: signs in front, a key, and its value. */
function piecesOf(chunk: string, start: number): Piece[] {
  const [signs] = SIGNS.exec(chunk) ?? [];
  if (
    signs &&
    signs.length < chunk.length &&
    !/^-+$/.test(signs) &&
    shapeOf(bare(chunk.slice(signs.length)).text) !== "word"
  )
    return [
      { text: signs, start },
      { text: chunk.slice(signs.length), start: start + signs.length },
    ];
  // A source with its numbers: [static/5].
  const source = /^([*>+]{0,2})([[({]\p{L}[\p{L}-]{1,20})(?=\/\d{1,3}(?:\/\d{1,10})?[\])}])/u.exec(chunk);
  if (source) {
    const [all, marks, word] = source;
    return [
      ...(marks === "" ? [] : [{ text: marks, start }]),
      { text: `${word}]`, start: start + marks.length },
      { text: `[${chunk.slice(all.length + 1)}`, start: start + all.length },
    ];
  }
  const key = /^[("'[]?-{0,2}\p{L}[\p{L}\d._-]{0,40}["']?=/u.exec(chunk)?.[0] ?? keyBeforeColon(chunk);
  if (key && key.length < chunk.length)
    return [
      { text: key, start },
      { text: chunk.slice(key.length), start: start + key.length },
    ];
  return [{ text: chunk, start }];
}

/** A word and its colon in front of a value, as in "metric:20"; addresses and interface names have colons too. */
function keyBeforeColon(chunk: string): string | undefined {
  const key = /^\p{L}[\p{L}_-]{1,30}:/u.exec(chunk)?.[0];
  if (!key || shapeOf(chunk) !== "word" || parseAddress(chunk.split("%")[0])) return undefined;
  return key;
}

/** The end of a text without trailing marks; marks that belong to an address stay. */
function endOfContent(text: string, from: number, to: number): number {
  let end = to;
  while (end - from > 1 && /[:.=…,]/.test(text[end - 1])) {
    const whole = text.slice(from, end);
    if (parseAddress(whole) || readPrefix(whole)) break;
    end--;
  }
  return end;
}

/** A text without quotes, brackets and trailing marks around it. */
function bare(text: string): { text: string; skipped: number; bracketed: boolean } {
  let from = 0;
  let bracketed = false;
  while (text.length - from > 1 && OPEN.test(text[from])) {
    bracketed ||= text[from] !== "@" && text[from] !== '"' && text[from] !== "'";
    from++;
  }
  let to = endOfContent(text, from, text.length);
  while (to - from > 1 && CLOSE.test(text[to - 1])) {
    bracketed ||= text[to - 1] !== '"' && text[to - 1] !== "'";
    to--;
  }
  to = endOfContent(text, from, to);
  return { text: text.slice(from, to), skipped: from, bracketed };
}

function tokenOf({ text: whole, start }: Piece): Token | null {
  const { text, skipped, bracketed } = bare(whole);
  if (text === "") return null;
  const shape = shapeOf(text);
  const announces = (shape === "word" || (shape === "prefix" && !/\d/.test(text))) && /[:=]$/.test(whole);
  return { text, shape, start: start + skipped, end: start + skipped + text.length, bracketed, announces };
}

/** An address right behind another is its mask if it has the form of one; a length belongs to the address before it. */
function asMask(token: Token, before: Token | undefined): Token {
  if (token.shape !== "address" || before?.shape !== "address") return token;
  return lengthOfAnyMask(token.text) === null || parseAddress(token.text)?.family === 6
    ? token
    : { ...token, shape: "mask" };
}

/** Names of interfaces as they are commonly formed: letters with digits behind, divided by slashes, dots and hyphens. */
export function looksLikeInterface(text: string): boolean {
  return (
    /^[A-Za-z][A-Za-z_-]{0,40}\d{1,9}(?:[/.:_-]\d{1,9}){0,8}$/.test(text) ||
    /^[A-Za-z]{1,30}(?:[-_][A-Za-z0-9]{1,20}){0,4}[/.]\d{1,9}(?:[/.:]\d{1,9}){0,8}$/.test(text)
  );
}
