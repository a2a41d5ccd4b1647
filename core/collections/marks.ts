/**
 * A set of whole numbers from 0 on, made once and used again and again: adding and asking take one read each, and emptying it
 * takes nothing.
 */
export class Marks {
  /** When each number was marked last: it is held as long as that is `now`. */
  private readonly marked: Int32Array;
  private now = 1;
  /** The members in order of insertion, up to `size`. */
  readonly items: Int32Array;
  size = 0;

  /** For numbers below `count`. */
  constructor(count: number) {
    this.marked = new Int32Array(count);
    this.items = new Int32Array(count);
  }

  /** Adds a number; false where it was held before. */
  add(n: number): boolean {
    if (this.marked[n] === this.now) return false;
    this.marked[n] = this.now;
    this.items[this.size++] = n;
    return true;
  }

  /** Calls for each number that it holds, those among them that are added meanwhile. */
  each(call: (n: number) => void) {
    for (let k = 0; k < this.size; k++) call(this.items[k]);
  }

  /** The current members. */
  toArray(): number[] {
    const list = new Array<number>(this.size);
    for (let k = 0; k < this.size; k++) list[k] = this.items[k];
    return list;
  }

  /** Empties it; gives itself. */
  empty(): this {
    this.now++;
    this.size = 0;
    return this;
  }
}
