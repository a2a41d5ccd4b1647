import {
  formatAddress,
  formatPrefix,
  parseAddress,
  parseInterfaceAddress,
  parsePrefix,
} from "../../../core/address/index.ts";
import type { TokenRole } from "../../layout.ts";
import type { ReaderOptions } from "../reader.ts";
import type { Column } from "./heads.ts";
import { columnAt, headCells, separatorOf } from "./heads.ts";
import { lengthOfAnyMask, looksLikeInterface, type Token, tokensOf } from "./tokens.ts";
import { type Role, roleOf } from "./vocabulary.ts";

/** What a line says, before it is known whether it begins a route or goes on with the one above. */
export interface LineParts {
  /** A destination in canonical form; null where the line has none. */
  to: string | null;
  /** An address with its length that belongs to the device itself. */
  own: string | null;
  via: string | null;
  out: string | null;
  distance: string;
  metric: string;
  words: string[];
  vrf: string;
  table: string;
  hardware: string | null;
  /** Numbers whose meaning nothing tells. */
  openNumbers: string[];
}

export interface LineContext {
  readonly options: ReaderOptions;
  /** Whether a word is the name of an interface of this device. */
  isInterface(text: string): boolean;
}

const empty = (): LineParts => ({
  to: null,
  own: null,
  via: null,
  out: null,
  distance: "",
  metric: "",
  words: [],
  vrf: "",
  table: "",
  hardware: null,
  openNumbers: [],
});

function destination(text: string, length: number | null, parts: LineParts): boolean {
  if (text === "default") {
    parts.to = "default";
    return true;
  }
  const read = parseInterfaceAddress(length === null ? text : `${text}/${length}`);
  if (!read) return false;
  const prefix = parsePrefix(`${formatAddress(read.address)}/${read.length}`);
  if (prefix) parts.to = formatPrefix(prefix);
  else parts.own = `${formatAddress(read.address)}/${read.length}`;
  return true;
}

const discards = new Set(["discard", "reject"]);

function pairOf(text: string, parts: LineParts) {
  [parts.distance, parts.metric] = text.split("/");
}

/** Puts a value where its column or the word before it says. False where it does not fit there. */
function put(role: Role, token: Token, parts: LineParts, context: LineContext): boolean {
  const { text, shape } = token;
  switch (role) {
    case "to":
    case "address":
      if (shape === "address") return destination(text, text.includes(":") ? 128 : 32, parts);
      return shape === "prefix" && destination(text, null, parts);
    case "via":
      if (shape === "address") parts.via = withoutZone(text, parts);
      // A word about the packets' fate may replace the next hop.
      else if (shape === "word" && context.options.meanings.of(text) !== null) parts.words.push(text);
      else if (shape === "word" && looksLikeName(text, context)) parts.out ??= text;
      else if (shape === "word") parts.words.push(text);
      return shape === "address" || shape === "word" || shape === "symbol";
    case "out":
      if (shape !== "word") return false;
      if (discards.has(context.options.meanings.of(text) ?? "")) parts.words.push(text);
      else parts.out = text;
      return true;
    case "distance":
    case "metric":
      if (shape === "pair") pairOf(text, parts);
      else if (shape === "number") parts[role] = text;
      return shape === "pair" || shape === "number" || shape === "symbol";
    case "pair":
      if (shape === "pair") pairOf(text, parts);
      else if (shape === "number") parts.distance = text;
      return shape === "pair" || shape === "number";
    case "word":
      if (shape === "word" || shape === "symbol") parts.words.push(text);
      return shape === "word" || shape === "symbol";
    case "active":
      if (/^(yes|true|active|\*|\+|>)$/i.test(text)) parts.words.push("active");
      else if (/^(no|false|inactive|-)$/i.test(text)) parts.words.push("inactive");
      return true;
    case "vrf":
    case "table":
      parts[role] = text;
      return true;
    case "hardware":
      parts.hardware = text;
      return shape === "hardware";
    case "open":
      if (shape === "address") parts.via ??= withoutZone(text, parts);
      else if (shape === "word" && context.options.meanings.of(text) !== null) parts.words.push(text);
      return true;
    case "mask":
    case "ignored":
      return true;
  }
}

function withoutZone(text: string, parts: LineParts): string | null {
  const [address, zone] = text.split("%");
  if (zone) parts.out ??= zone;
  const read = parseAddress(address);
  return read && formatAddress(read);
}

function looksLikeName(text: string, context: LineContext): boolean {
  return context.isInterface(text) || looksLikeInterface(text);
}

/** A line below a heading, by column positions; null if the content does not fit its columns. */
export function readByColumns(
  line: string,
  columns: readonly Column[],
  context: LineContext,
): LineParts | null {
  const parts = empty();
  const separator = separatorOf(line);
  const cells = separator
    ? headCells(line).map((cell, i) => ({ ...cell, column: i }))
    : [...line.matchAll(/\S+/g)].map((found) => {
        const [start, end] = [found.index, found.index + found[0].length];
        return { text: found[0], start, end, column: columnAt(columns, start, end) };
      });
  if (separator && cells.length !== columns.length) return null;
  const mask = cells.find(({ column }) => columns[column]?.role === "mask");
  for (const { text, column } of cells) {
    const role = columns[column]?.role ?? "ignored";
    for (const token of tokensOf(text)) {
      const masked = (role === "to" || role === "address") && mask && token.shape === "address";
      if (masked && destination(token.text, lengthOfAnyMask(mask.text), parts)) continue;
      if (token.shape === "mask" && (role === "to" || role === "address")) {
        const first = tokensOf(text)[0];
        if (destination(first.text, lengthOfAnyMask(token.text), parts)) continue;
      }
      if (!put(role, token, parts, context)) return null;
    }
  }
  return parts;
}

/** A line with taught roles; null if a token does not fit its role. */
export function readByRoles(
  line: string,
  roles: readonly TokenRole[],
  context: LineContext,
): LineParts | null {
  const parts = empty();
  const tokens = tokensOf(line);
  if (tokens.length !== roles.length) return null;
  for (const [i, token] of tokens.entries()) {
    const role = roles[i];
    const next = tokens[i + 1];
    const masked = (role === "to" || role === "address") && roles[i + 1] === "mask" && next;
    if (masked && destination(token.text, lengthOfAnyMask(next.text), parts)) continue;
    if (role === "address" && token.shape === "prefix") {
      const read = parseInterfaceAddress(token.text);
      parts.own = read && `${formatAddress(read.address)}/${read.length}`;
      continue;
    }
    // A duration is also how many interfaces are called.
    const named = role === "out" || role === "word" ? { ...token, shape: "word" as const } : token;
    if (!put(role, named, parts, context)) return null;
  }
  return parts;
}

/** A line without a heading, by the types of its tokens and the words that announce values. */
export function readByShape(line: string, context: LineContext): LineParts {
  const parts = empty();
  const tokens = tokensOf(keyed(line));
  const { meanings } = context.options;
  const before = tokens.findIndex(({ shape }) => shape === "prefix" || shape === "address");
  const trailing: string[] = [];
  for (let i = 0; i < tokens.length; i++) {
    const token = tokens[i];
    const next = tokens[i + 1];
    const phrase =
      next && token.shape === "word" && next.shape === "word" ? roleOf(`${token.text} ${next.text}`) : null;
    const role = phrase ?? (token.shape === "word" ? roleOf(token.text) : null);
    const value = tokens[i + (phrase ? 2 : 1)];
    if (
      role &&
      value &&
      !meanings.wasTold(token.text) &&
      takesValue(role, value, tokens[i + (phrase ? 3 : 2)], parts, context)
    ) {
      i += phrase ? 2 : 1;
      if (tokens[i + 1]?.shape === "mask") i++;
      continue;
    }
    if (readToken(token, next, parts, context)) {
      if (next?.shape === "mask") i++;
      continue;
    }
    if (token.shape !== "word" && token.shape !== "symbol") continue;
    if (i < before) parts.words.push(token.text);
    else if (token.shape === "word") trailing.push(token.text);
  }
  return settleWords(parts, trailing, context);
}

/** Stores the token after an announcing word if it has the announced type. */
function takesValue(
  role: Role,
  value: Token,
  after: Token | undefined,
  parts: LineParts,
  context: LineContext,
): boolean {
  if ((role === "to" || role === "address") && value.shape === "address" && after?.shape === "mask") {
    return destination(value.text, lengthOfAnyMask(after.text), parts);
  }
  if (role === "mask") return value.shape === "mask" || value.shape === "address";
  if (role === "ignored") return value.shape === "duration" || value.shape === "number";
  if (role === "word" && value.shape !== "word") return false;
  if ((role === "to" || role === "address") && parts.to !== null) return false;
  if (role === "out" && value.shape === "word" && roleOf(value.text) !== null) return false;
  return put(role, value, parts, context);
}

function readToken(token: Token, next: Token | undefined, parts: LineParts, context: LineContext): boolean {
  const { text, shape, bracketed } = token;
  const known = parts.to !== null || parts.own !== null;
  switch (shape) {
    case "prefix":
      return known || destination(text, null, parts);
    case "address":
      if (!known && next?.shape === "mask") return destination(text, lengthOfAnyMask(next.text), parts);
      parts.via ??= withoutZone(text, parts);
      return true;
    case "pair":
      pairOf(text, parts);
      return true;
    case "number":
      if (bracketed && parts.distance === "") parts.distance = text;
      else if (known) parts.openNumbers.push(text);
      return true;
    case "hardware":
      parts.hardware = text;
      return true;
    case "duration":
      // A duration is also how many interfaces are called: known ones go first.
      if (context.isInterface(text)) parts.out ??= text;
      return true;
    case "word":
      if (!context.isInterface(text) || context.options.meanings.wasTold(text)) return false;
      parts.out ??= text;
      return true;
    default:
      return false;
  }
}

/** Words that only hold a sentence together. */
const fillers = new Set(
  "is are directly attached to from the for of in at and or up down next hop by with route routes entry entries via".split(
    " ",
  ),
);

/** Words behind the destination: one may name the interface, others say where the route came from. */
function settleWords(parts: LineParts, trailing: readonly string[], context: LineContext): LineParts {
  const { meanings } = context.options;
  for (const word of trailing) {
    if (meanings.of(word) !== null) parts.words.push(word);
    else if (parts.out === null && looksLikeInterface(word)) parts.out = word;
  }
  const placed = parts.to !== null || parts.own !== null || parts.via !== null;
  if (!placed) return parts;
  // The remaining word is the interface, unless it is as short as a code.
  const left = trailing.filter((word) => meanings.of(word) === null && !fillers.has(word.toLowerCase()));
  const codes = left.filter((word) => /^[A-Z*]{1,2}$/.test(word));
  parts.words.push(...codes);
  const names = left.filter((word) => !codes.includes(word));
  const last = trailing.at(-1);
  parts.out ??= (last !== undefined && names.includes(last) ? last : names[0]) ?? null;
  return parts;
}

/** "key: value" and "key=value" with their mark taken away, where the key is a word that announces one. */
export function keyed(line: string): string {
  return (
    line
      // Tried from the beginnings of words alone: a long word would else be gone through from each of its letters.
      .replace(/(?<![\w-])([A-Za-z][\w-]*(?: [A-Za-z][\w-]*)?)\s*[=:]\s+(?=\S)/g, (all, key: string) =>
        roleOf(key) ? `${key} ` : all,
      )
      .replace(/(^|[\s,;([])([A-Za-z][\w-]*)[=:](?=[^\s:=])/g, (all, lead: string, key: string) =>
        roleOf(key) ? `${lead}${key} ` : all,
      )
  );
}
