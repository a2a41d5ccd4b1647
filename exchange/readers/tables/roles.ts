import {
  formatAddress,
  formatPrefix,
  parseAddress,
  parseInterfaceAddress,
  prefixOf,
} from "../../../core/address/index.ts";
import type { Layout, TokenRole } from "../../layout.ts";
import type { LineParts } from "./line.ts";
import { type Token, tokensOf } from "./tokens.ts";

/** The shape of a line: the shapes of its tokens. Lines of one shape form a group. */
export function shapeOfLine(line: string): string {
  return tokensOf(line)
    .map(({ shape }) => shape)
    .join(" ");
}

/** Whether a line can say something of a network: it has an address. */
const isTelling = (shape: string) => /\b(?:prefix|address)\b/.test(shape);

/** The share of route lines whose shape a layout must know for the text to match it. */
const SHARE = 0.5;

/** The layouts that a text is of: those that know the shapes of at least half of its telling lines. */
export function recognised(lines: readonly string[], layouts: readonly Layout[]): Layout[] {
  const shapes = lines.map(shapeOfLine).filter(isTelling);
  return layouts.filter(({ shapes: known, columns }) => {
    const count = shapes.filter((shape) => Object.hasOwn(known, shape)).length;
    return columns !== undefined || (shapes.length > 0 && count >= shapes.length * SHARE);
  });
}

/** The role of each token of a line, derived from the line's result. */
export function rolesOf(line: string, parts: LineParts): { token: Token; role: TokenRole }[] {
  const left = {
    pair: parts.distance !== "" && parts.metric !== "",
    distance: parts.distance,
    metric: parts.metric,
  };
  const words = new Set(parts.words);
  let hadTarget = false;
  return tokensOf(line).map((token) => {
    const role = roleIn(token, parts, left, words, hadTarget);
    if (role === "to" || role === "address") hadTarget = true;
    if (role === "pair") left.pair = false;
    if (role === "distance" || role === "pair") left.distance = "";
    if (role === "metric" || role === "pair") left.metric = "";
    return { token, role };
  });
}

function roleIn(
  { text, shape }: Token,
  parts: LineParts,
  left: { pair: boolean; distance: string; metric: string },
  words: ReadonlySet<string>,
  hadTarget: boolean,
): TokenRole {
  switch (shape) {
    case "prefix":
      if (hadTarget) return "ignored";
      return parts.own !== null ? "address" : parts.to !== null ? "to" : "ignored";
    case "address":
      return addressRole(text, parts, hadTarget);
    case "mask":
      return "mask";
    case "pair":
      return left.pair || left.distance !== "" ? "pair" : "ignored";
    case "number":
      if (left.distance === text) return "distance";
      return left.metric === text ? "metric" : "ignored";
    case "hardware":
      return "hardware";
    default:
      if (parts.out === text) return "out";
      if (words.has(text)) return "word";
      return parts.vrf === text ? "vrf" : parts.table === text ? "table" : "ignored";
  }
}

function addressRole(text: string, parts: LineParts, hadTarget: boolean): TokenRole {
  const address = parseAddress(text.split("%")[0]);
  if (!address) return "ignored";
  const own = formatAddress(address);
  const begins = (whole: string | null) => {
    const read = whole === null ? null : parseInterfaceAddress(whole);
    if (!read) return false;
    return formatAddress(read.address) === own || formatPrefix(prefixOf(address, read.length)) === whole;
  };
  // A network and a next hop may be the same address: the first one is the network.
  if (!hadTarget && begins(parts.to)) return "to";
  if (!hadTarget && begins(parts.own)) return "address";
  return parts.via === own ? "via" : "ignored";
}
