import { comparePrefix, containsPrefix, type Prefix } from "./prefix.ts";

/** Items keyed by prefix, found by the prefixes that contain a given one and by those inside it; results keep the order
 * of insertion. Building takes O(n log n), a query O(log n) plus the size of the result. */
export class PrefixList<T> {
  private readonly order: readonly number[];
  private readonly prefixes: readonly Prefix[];
  /** By place in order: the place of the next wider prefix that holds it, or -1. Of two that are alike, the later's is the earlier. */
  private readonly wider: Int32Array;

  constructor(
    /** All of them, in the order given. */
    readonly all: readonly T[],
    prefixOf: (item: T) => Prefix,
  ) {
    const prefixes = all.map(prefixOf);
    this.order = prefixes.map((_, i) => i).sort((a, b) => comparePrefix(prefixes[a], prefixes[b]) || a - b);
    this.prefixes = this.order.map((i) => prefixes[i]);
    this.wider = new Int32Array(all.length).fill(-1);
    let open = -1;
    for (let at = 0; at < all.length; at++) {
      while (open >= 0 && !containsPrefix(this.prefixes[open], this.prefixes[at])) open = this.wider[open];
      this.wider[at] = open;
      open = at;
    }
  }

  /** Things whose prefix lies in another, that one itself among them. */
  within(outer: Prefix): T[] {
    const found: number[] = [];
    for (let at = this.firstFrom(outer); at < this.order.length; at++) {
      if (!containsPrefix(outer, this.prefixes[at])) break;
      found.push(this.order[at]);
    }
    return this.inOrder(found);
  }

  /** Things whose prefix holds another, that one itself among them. */
  holding(inner: Prefix): T[] {
    const found: number[] = [];
    let at = this.firstFrom(inner);
    while (at < this.order.length && comparePrefix(this.prefixes[at], inner) === 0) at++;
    for (at--; at >= 0; at = this.wider[at])
      if (containsPrefix(this.prefixes[at], inner)) found.push(this.order[at]);
    return this.inOrder(found);
  }

  /** Things whose prefix is this one. */
  at(prefix: Prefix): T[] {
    const found: number[] = [];
    for (let at = this.firstFrom(prefix); at < this.order.length; at++) {
      if (comparePrefix(this.prefixes[at], prefix) !== 0) break;
      found.push(this.order[at]);
    }
    return this.inOrder(found);
  }

  private inOrder(found: number[]): T[] {
    if (found.length > 1) found.sort((a, b) => a - b);
    return found.map((i) => this.all[i]);
  }

  /** The first place whose prefix does not come before another. */
  private firstFrom(prefix: Prefix): number {
    let [low, high] = [0, this.prefixes.length];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (comparePrefix(this.prefixes[middle], prefix) < 0) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}
