import { commonBits, makeAddress, sameAddress, widthOf } from "./address.ts";
import { comparePrefix, containsPrefix, overlaps, type Prefix, prefixOf } from "./prefix.ts";

/** The two halves of a prefix; it must be shorter than an address. */
export function halves(prefix: Prefix): [Prefix, Prefix] {
  const length = prefix.length + 1;
  const { address } = prefix;
  const bit = (index: number) => {
    const at = prefix.length - index * 32;
    return at >= 0 && at < 32 ? (0x80000000 >>> at) >>> 0 : 0;
  };
  const upper = makeAddress(
    address.family,
    address.w0 | bit(0),
    address.w1 | bit(1),
    address.w2 | bit(2),
    address.w3 | bit(3),
  );
  return [
    { address, length },
    { address: upper, length },
  ];
}

/** The fewest prefixes that cover the same addresses and no others (RFC 4632 section 5), sorted. Families may be mixed
 * and are covered separately. O(n log n). */
export function exactCover(prefixes: readonly Prefix[]): Prefix[] {
  const sorted = [...prefixes].sort(comparePrefix);
  const cover: Prefix[] = [];
  for (const prefix of sorted) {
    const last = cover.at(-1);
    if (last && containsPrefix(last, prefix)) continue;
    cover.push(prefix);
    // Two halves that stand side by side become their whole, as often as that is so.
    while (cover.length >= 2) {
      const [a, b] = [cover[cover.length - 2], cover[cover.length - 1]];
      if (a.length !== b.length || a.length === 0 || a.address.family !== b.address.family) break;
      const whole = prefixOf(a.address, a.length - 1);
      if (!containsPrefix(whole, b) || !sameAddress(whole.address, a.address)) break;
      cover.splice(-2, 2, whole);
    }
  }
  return cover;
}

/** The smallest single prefix that holds them all; null for none, or for mixed families. */
export function enclosing(prefixes: readonly Prefix[]): Prefix | null {
  if (prefixes.length === 0) return null;
  const [first] = prefixes;
  let length = first.length;
  for (const prefix of prefixes) {
    if (prefix.address.family !== first.address.family) return null;
    length = Math.min(length, prefix.length, commonBits(first.address, prefix.address));
  }
  return prefixOf(first.address, length);
}

/** The part of a prefix that none of the others covers, as the fewest prefixes, sorted. */
export function subtract(from: Prefix, others: readonly Prefix[]): Prefix[] {
  const touching = others.filter((other) => overlaps(from, other));
  if (touching.length === 0) return [from];
  if (touching.some((other) => containsPrefix(other, from))) return [];
  if (from.length === widthOf(from.address.family)) return [];
  return halves(from).flatMap((half) => subtract(half, touching));
}
