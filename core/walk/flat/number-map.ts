/** A map from non-negative integers to integers by open addressing over one array, for sparse keys. Entries are never
 * removed. */
export class NumberMap {
  /** Key plus one and value, beside each other; a key of 0 is a free place. */
  private cells = new Int32Array(16);
  private mask = 7;
  private size = 0;

  /** The value under a key; 0 if absent. */
  get(key: number): number {
    const { cells, mask } = this;
    for (let at = spread(key) & mask; ; at = (at + 1) & mask) {
      const found = cells[at * 2];
      if (found === key + 1) return cells[at * 2 + 1];
      if (found === 0) return 0;
    }
  }

  /** Puts a value, not 0, under a key that has none yet. */
  add(key: number, value: number) {
    if (++this.size * 4 > (this.mask + 1) * 3) this.grow();
    this.put(key + 1, value);
  }

  private put(key: number, value: number) {
    const { cells, mask } = this;
    let at = spread(key - 1) & mask;
    while (cells[at * 2] !== 0) at = (at + 1) & mask;
    cells[at * 2] = key;
    cells[at * 2 + 1] = value;
  }

  private grow() {
    const { cells } = this;
    this.cells = new Int32Array(cells.length * 2);
    this.mask = this.mask * 2 + 1;
    for (let at = 0; at < cells.length; at += 2) if (cells[at] !== 0) this.put(cells[at], cells[at + 1]);
  }
}

/** Neighbouring keys to places apart (the multiplier of Knuth's multiplicative hashing). */
function spread(key: number): number {
  return Math.imul(key, 0x9e3779b1) >>> 7;
}
