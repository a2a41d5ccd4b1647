import { enclosing, formatPrefix, type Prefix, parsePrefix } from "../address/index.ts";
import type { RangeImpact } from "./impact.ts";

/** Ranges with the same change from the same devices, merged. */
export interface RangeGroup extends Omit<RangeImpact, "range"> {
  /** The range, or the smallest prefix that holds all of them. */
  within: string;
  /** How many ranges there are in it. */
  parts: number;
}

/** Merges ranges with the same change into at most `most` groups, and counts those left out. */
export function groupRanges(
  ranges: readonly RangeImpact[],
  most: number,
): { groups: RangeGroup[]; leftOut: number } {
  const alike = new Map<string, RangeImpact[]>();
  for (const range of ranges) {
    const { result, at, code } = range.before;
    const { after } = range;
    const family = range.range.includes(":") ? 6 : 4;
    const key = JSON.stringify([family, range.from, result, at, code, after.result, after.at, after.code]);
    const known = alike.get(key);
    if (known) known.push(range);
    else alike.set(key, [range]);
  }
  const groups = [...alike.values()].map(([first, ...others]): RangeGroup => {
    const { range, ...rest } = first;
    if (others.length === 0) return { ...rest, within: range, parts: 1 };
    const prefixes = [range, ...others.map((other) => other.range)].map(
      (text) => parsePrefix(text) as Prefix,
    );
    return { ...rest, within: formatPrefix(enclosing(prefixes) as Prefix), parts: prefixes.length };
  });
  return { groups: groups.slice(0, most), leftOut: Math.max(0, groups.length - most) };
}
