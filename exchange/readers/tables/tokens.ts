import { lengthOfMask, parseAddress, parseInterfaceAddress } from "../../../core/address/index.ts";

/** What a token can be by its shape alone. */
export type Shape =
  | "prefix"
  | "address"
  | "mask"
  | "pair"
  | "number"
  | "duration"
  | "hardware"
  | "word"
  | "symbol";

export interface Token {
  readonly text: string;
  readonly shape: Shape;
  /** Its place in the line, and the one after it. */
  readonly start: number;
  readonly end: number;
  /** For numbers and pairs: whether they are in brackets. */
  readonly bracketed: boolean;
}

const DURATION =
  /^(?:\d+:\d{2}(?::\d{2})?(?:\.\d+)?|(?:\d+[ywdhms]){1,6}|\d+(?:\.\d+)?(?:sec|secs|min|mins|s|ms|m|h|d|w)|never)$/i;
const HARDWARE = /^(?:[0-9a-f]{2}[:-]){5}[0-9a-f]{2}$|^(?:[0-9a-f]{4}\.){2}[0-9a-f]{4}$/i;

/** A mask, or its complement as some tables write it; null for none. */
export function lengthOfAnyMask(text: string): number | null {
  const straight = lengthOfMask(text);
  if (straight !== null) return straight;
  const octets = text.split(".").map(Number);
  if (octets.length !== 4 || octets.some((n) => !Number.isInteger(n) || n < 0 || n > 255)) return null;
  return lengthOfMask(octets.map((n) => 255 - n).join("."));
}

function shapeOf(text: string): Shape {
  if (text === "default") return "prefix";
  if (HARDWARE.test(text)) return "hardware";
  if (parseInterfaceAddress(text)) return "prefix";
  // A link-local next hop may name its interface behind a percent sign.
  if (parseAddress(text.split("%")[0])) return "address";
  if (/^\d+\/\d+$/.test(text)) return "pair";
  if (/^\d+$/.test(text)) return "number";
  if (DURATION.test(text)) return "duration";
  return /[\p{L}\p{N}]/u.test(text) ? "word" : "symbol";
}

/** The tokens of a line: parted by spaces, bars and commas; brackets and trailing marks are no part of them. */
export function tokensOf(line: string): Token[] {
  const tokens: Token[] = [];
  for (const found of line.matchAll(/[^\s|,;]+/g)) {
    let text = found[0];
    let start = found.index;
    const opened = /^[[(<{]/.test(text);
    const closed = /[\])>}]$/.test(text) && text.length > 1;
    if (opened && text.length > 1) {
      text = text.slice(1);
      start++;
    }
    if (closed) text = text.slice(0, -1);
    const bare = withoutMarks(text);
    if (bare !== "" && !parseAddress(text) && !parseInterfaceAddress(text)) text = bare;
    if (text === "") continue;
    tokens.push({
      text,
      shape: shapeOf(text),
      start,
      end: start + text.length,
      bracketed: opened || closed,
    });
  }
  return tokens.map((token, i) => asMask(token, tokens[i - 1]));
}

/** A text without the colons and dots at its end. */
function withoutMarks(text: string): string {
  let end = text.length;
  while (end > 0 && (text[end - 1] === ":" || text[end - 1] === ".")) end--;
  return text.slice(0, end);
}

/** An address right behind another is its mask where it has the form of one. */
function asMask(token: Token, before: Token | undefined): Token {
  const isMask =
    token.shape === "address" && before?.shape === "address" && lengthOfAnyMask(token.text) !== null;
  return isMask ? { ...token, shape: "mask" } : token;
}

/** Names of interfaces as they are commonly formed: letters with digits behind, parted by slashes, dots and hyphens. */
export function looksLikeInterface(text: string): boolean {
  return (
    /^[A-Za-z][A-Za-z_-]*\d+(?:[/.:_-]\d+)*$/.test(text) ||
    /^[A-Za-z]+(?:[-_][A-Za-z0-9]+)*[/.]\d+(?:[/.:]\d+)*$/.test(text)
  );
}
