/**
 * Addresses as numbers. Both families share one shape: four unsigned 32-bit words, the most
 * significant first. An IPv4 address fills the first word; the other three are zero.
 */

export type Family = 4 | 6;

export interface Address {
  readonly family: Family;
  readonly w0: number;
  readonly w1: number;
  readonly w2: number;
  readonly w3: number;
}

/** Bits of an address: 32 or 128. */
export function widthOf(family: Family): 32 | 128 {
  return family === 4 ? 32 : 128;
}

/** An address from its words; every word is taken modulo 2^32. */
export function makeAddress(family: Family, w0: number, w1 = 0, w2 = 0, w3 = 0): Address {
  return { family, w0: w0 >>> 0, w1: w1 >>> 0, w2: w2 >>> 0, w3: w3 >>> 0 };
}

/** Order: IPv4 before IPv6, then by value. Negative, zero or positive. */
export function compareAddress(a: Address, b: Address): number {
  return a.family - b.family || a.w0 - b.w0 || a.w1 - b.w1 || a.w2 - b.w2 || a.w3 - b.w3;
}

export function sameAddress(a: Address, b: Address): boolean {
  return a.w0 === b.w0 && a.family === b.family && a.w1 === b.w1 && a.w2 === b.w2 && a.w3 === b.w3;
}

/** The word mask of the first `bits` bits of word `index` of an address whose prefix has `length` bits. */
export function wordMask(length: number, index: number): number {
  const bits = length - index * 32;
  if (bits <= 0) return 0;
  if (bits >= 32) return 0xffffffff;
  return (0xffffffff << (32 - bits)) >>> 0;
}

/** How many leading bits two addresses of one family share. */
export function commonBits(a: Address, b: Address): number {
  const width = widthOf(a.family);
  const differences = [a.w0 ^ b.w0, a.w1 ^ b.w1, a.w2 ^ b.w2, a.w3 ^ b.w3];
  for (let i = 0; i * 32 < width; i++) {
    if (differences[i] !== 0) return i * 32 + Math.clz32(differences[i]);
  }
  return width;
}

/** The address after this one, or null after the last of the family. */
export function nextAddress(a: Address): Address | null {
  if (a.family === 4) return a.w0 === 0xffffffff ? null : makeAddress(4, a.w0 + 1);
  if (a.w3 !== 0xffffffff) return makeAddress(6, a.w0, a.w1, a.w2, a.w3 + 1);
  if (a.w2 !== 0xffffffff) return makeAddress(6, a.w0, a.w1, a.w2 + 1, 0);
  if (a.w1 !== 0xffffffff) return makeAddress(6, a.w0, a.w1 + 1, 0, 0);
  return a.w0 === 0xffffffff ? null : makeAddress(6, a.w0 + 1, 0, 0, 0);
}

/** The address before this one, or null before the first of the family. */
export function previousAddress(a: Address): Address | null {
  if (a.family === 4) return a.w0 === 0 ? null : makeAddress(4, a.w0 - 1);
  if (a.w3 !== 0) return makeAddress(6, a.w0, a.w1, a.w2, a.w3 - 1);
  if (a.w2 !== 0) return makeAddress(6, a.w0, a.w1, a.w2 - 1, 0xffffffff);
  if (a.w1 !== 0) return makeAddress(6, a.w0, a.w1 - 1, 0xffffffff, 0xffffffff);
  return a.w0 === 0 ? null : makeAddress(6, a.w0 - 1, 0xffffffff, 0xffffffff, 0xffffffff);
}
