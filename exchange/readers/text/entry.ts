import {
  formatAddress,
  formatPrefix,
  parseAddress,
  parseInterfaceAddress,
  parsePrefix,
} from "../../../core/address/index.ts";
import type { TokenRole } from "../../layout.ts";
import type { Meanings } from "../meanings.ts";
import { lengthOfAnyMask, looksLikeInterface, readPrefix, type Token } from "./tokens.ts";
import type { Role } from "./vocabulary.ts";

/** A number without a known meaning: its value, and the place that it shares with those of other lines. */
export interface OpenNumber {
  readonly token: number;
  readonly value: number;
  readonly slot: string;
}

/** The content of a line, before it is known whether it begins a route or continues one. */
export interface Entry {
  /** A destination in canonical form; null without one. */
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
  openNumbers: OpenNumber[];
  /** Words that nothing explains. */
  strange: string[];
  /** Further networks, or an address without a length under a destination: the line is no route. */
  faults: string[];
  /** The role of each token. */
  readonly roles: TokenRole[];
}

export const emptyEntry = (tokens: readonly Token[]): Entry => ({
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
  strange: [],
  faults: [],
  roles: tokens.map(() => "ignored"),
});

export interface EntryContext {
  readonly meanings: Meanings;
  /** Whether a word is the name of an interface of this device. */
  isInterface(text: string): boolean;
  /** The length of an address in the network that a heading divides into subnets; null outside of it. */
  lengthUnder(address: string): number | null;
}

const discards = new Set(["discard", "reject"]);
const NONE = /^(?:-{1,3}|none|n\/a|\*|\.|—|–)$/i;

/** Stores a destination or an own address. False if the text is neither. */
function storeNetwork(text: string, length: number | null, entry: Entry): boolean {
  if (/^default$/i.test(text)) {
    if (entry.to !== null) return false;
    entry.to = "default";
    return true;
  }
  const read = length === null ? readPrefix(text) : parseInterfaceAddress(`${text}/${length}`);
  if (!read) return false;
  if (entry.to !== null || entry.own !== null) {
    entry.faults.push("a second network on the line");
    return true;
  }
  const whole = formatPrefix(read);
  if (parsePrefix(whole)) entry.to = whole;
  else entry.own = whole;
  return true;
}

/** The length that a mask, a length or a number states; null for other tokens. */
function lengthOf(token: Token | undefined): number | null {
  if (!token) return null;
  if (token.shape === "length") return Number(token.text.slice(1));
  if (token.shape === "number") return Number(token.text) <= 128 ? Number(token.text) : null;
  return lengthOfAnyMask(token.text);
}

/** A next hop: its address, and the interface behind a percent sign. */
function storeNextHop(text: string, entry: Entry): void {
  const [address, zone] = text.split("%");
  if (zone) entry.out ??= zone;
  const read = parseAddress(address);
  if (!read) return;
  // Zeros are how some tables write that there is none.
  entry.via = /^(?:0\.0\.0\.0|::)$/.test(address) ? "" : formatAddress(read);
}

function storePair(text: string, entry: Entry) {
  [entry.distance, entry.metric] = text.split("/");
}

/**
 * Stores a token in its role. False if it cannot have that role.
 *
 * @param mask the token that states the length of an address
 */
export function store(
  role: Role,
  token: Token,
  at: number,
  mask: Token | undefined,
  entry: Entry,
  context: EntryContext,
): boolean {
  const { text, shape } = token;
  const as = (tokenRole: TokenRole) => {
    entry.roles[at] = tokenRole;
    return true;
  };
  switch (role) {
    case "to":
    case "address": {
      if (shape === "word" && NONE.test(text)) return as("ignored");
      if (shape === "address" || shape === "mask") {
        const length = lengthOf(mask) ?? context.lengthUnder(text);
        if (length === null) {
          entry.faults.push(`${text} has no length or mask`);
          return false;
        }
        return storeNetwork(text, length, entry) && as(role);
      }
      return shape === "prefix" && storeNetwork(text, null, entry) && as(role);
    }
    case "via":
      if (shape === "address" || shape === "mask") {
        storeNextHop(text, entry);
        return as("via");
      }
      if (shape === "symbol" || NONE.test(text)) return as("ignored");
      if (shape !== "word" && shape !== "duration") return false;
      // A word about the packets' fate, or the interface, may replace the next hop.
      if (context.meanings.of(text) !== null) return storeWord(text, entry) && as("word");
      if (context.isInterface(text) || looksLikeInterface(text)) {
        entry.out ??= text;
        return as("out");
      }
      entry.strange.push(text);
      return as("ignored");
    case "out":
      // Some tables name an interface by its own address.
      if (shape === "symbol" || shape === "address" || NONE.test(text)) return as("ignored");
      if (shape !== "word" && shape !== "duration") return false;
      if (discards.has(context.meanings.of(text) ?? "") && !context.isInterface(text))
        return storeWord(text, entry) && as("word");
      entry.out = text;
      return as("out");
    case "distance":
    case "metric":
      if (shape === "pair") storePair(text, entry);
      else if (shape === "number") entry[role] = text;
      else return shape === "symbol" || NONE.test(text);
      return as(shape === "pair" ? "pair" : role);
    case "pair":
      if (shape === "pair") storePair(text, entry);
      else if (shape === "number") entry.distance = text;
      else return shape === "symbol";
      return as("pair");
    case "word":
      if (shape === "word" || shape === "symbol" || shape === "number") storeWord(text, entry);
      return as("word");
    case "active":
      if (/^(?:yes|y|true|active|\*|\+|>|1|x|si|ja|oui|sim)$/i.test(text)) entry.words.push("active");
      else if (/^(?:no|n|false|inactive|-|0|nein|non|nao)$/i.test(text)) entry.words.push("inactive");
      return as("word");
    case "vrf":
    case "table":
      if (shape === "symbol") return as("ignored");
      entry[role] = text;
      return as(role);
    case "hardware":
      if (shape !== "hardware") return shape === "symbol";
      entry.hardware = text;
      return as("hardware");
    case "mask":
      return as("mask");
    case "open":
      if (shape === "address" && entry.via === null && entry.to !== null)
        return store("via", token, at, mask, entry, context);
      if ((shape === "word" || shape === "symbol") && context.meanings.of(text) !== null)
        return storeWord(text, entry) && as("word");
      if (shape === "word" && context.isInterface(text)) return store("out", token, at, mask, entry, context);
      if (shape === "pair" && entry.distance === "") return store("pair", token, at, mask, entry, context);
      return as("ignored");
    case "note":
    case "ignored":
      return as("ignored");
  }
}

function storeWord(text: string, entry: Entry): true {
  if (!NONE.test(text)) entry.words.push(text);
  return true;
}
