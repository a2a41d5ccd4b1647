/**
 * A list of whole numbers under each of some keys from 0 on, all in two rows of numbers: each item says where the one before
 * it in its list stands.
 */
export class NumberLists {
  /** By key, the place of its last item; -1 for none. */
  private readonly last: Int32Array;
  private readonly items: number[] = [];
  private readonly before: number[] = [];

  /** For keys below `keys`. */
  constructor(keys: number) {
    this.last = new Int32Array(keys).fill(-1);
  }

  /** Puts an item at the end of a list, unless it ends with it. */
  add(key: number, item: number) {
    const last = this.last[key];
    if (last >= 0 && this.items[last] === item) return;
    this.last[key] = this.items.push(item) - 1;
    this.before.push(last);
  }

  /** Calls for each item of a list, the last first. */
  each(key: number, call: (item: number) => void) {
    for (let at = this.last[key]; at >= 0; at = this.before[at]) call(this.items[at]);
  }
}
