/** Loops by their ranges, the last of each: which devices send the packets does not matter to the reader. */
export function loopingRanges<T extends { readonly range: string }>(loops: readonly T[]): T[] {
  return [...new Map(loops.map((loop) => [loop.range, loop])).values()];
}
