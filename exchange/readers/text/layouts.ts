import type { Layout } from "../../layout.ts";
import { tokensOf } from "./tokens.ts";

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

/** The layouts that a text matches: those that know the shapes of at least half of its route lines. */
export function recognised(lines: readonly string[], layouts: readonly Layout[]): Layout[] {
  if (layouts.length === 0) return [];
  const shapes = lines.map(shapeOfLine).filter(isTelling);
  return layouts.filter(({ shapes: known, columns }) => {
    const count = shapes.filter((shape) => Object.hasOwn(known, shape)).length;
    return columns !== undefined || (shapes.length > 0 && count >= shapes.length * SHARE);
  });
}
