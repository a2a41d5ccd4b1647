/**
 * A set of whole numbers from 0 on, made once and used again and again: adding and asking take one read each, and emptying it
 * takes nothing but the list of what it held.
 */
export class Marks {
  /** When each number was marked last: it is held as long as that is `now`. */
  private readonly marked: Int32Array;
  private now = 1;
  /** What it holds, in the order in which it was added. */
  readonly list: number[] = [];

  /** For numbers below `count`. */
  constructor(count: number) {
    this.marked = new Int32Array(count);
  }

  has(n: number): boolean {
    return this.marked[n] === this.now;
  }

  /** Adds a number; false where it was held before. */
  add(n: number): boolean {
    if (this.marked[n] === this.now) return false;
    this.marked[n] = this.now;
    this.list.push(n);
    return true;
  }

  /** Empties it; gives itself. */
  empty(): this {
    this.now++;
    this.list.length = 0;
    return this;
  }
}
