/**
 * A list of whole numbers under each of some keys from 0 on, all in one row of numbers: by key the place of its last item,
 * and by place the item, then the place of the one before it in its list.
 */
export class NumberLists {
  private row: Int32Array;
  private end: number;

  /** For keys below `keys`; `items` is the initial capacity. */
  constructor(
    private readonly keys: number,
    items = 16,
  ) {
    this.row = new Int32Array(keys + 2 * items);
    this.end = keys;
  }

  /** Puts an item at the end of a list, unless it ends with it. */
  add(key: number, item: number) {
    const last = this.row[key];
    if (last > 0 && this.row[last] === item) return;
    if (this.end === this.row.length) this.grow();
    this.row[this.end] = item;
    this.row[this.end + 1] = last;
    this.row[key] = this.end;
    this.end += 2;
  }

  /** Calls for each item of a list, the last first. */
  each(key: number, call: (item: number) => void) {
    const { row } = this;
    for (let at = row[key]; at > 0; at = row[at + 1]) call(row[at]);
  }

  private grow() {
    const row = new Int32Array(this.keys + 2 * Math.max(this.end - this.keys, 16));
    row.set(this.row);
    this.row = row;
  }
}
