/** A small seeded generator (mulberry32): the same seed gives the same plan everywhere. */
export class Random {
  private state: number;

  constructor(seed: number) {
    this.state = seed >>> 0;
  }

  /** A number from 0 up to, not including, 1. */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) >>> 0;
    let t = this.state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }

  /** A whole number from 0 up to, not including, `n`. */
  below(n: number): number {
    return Math.floor(this.next() * n);
  }

  chance(p: number): boolean {
    return this.next() < p;
  }

  pick<T>(list: readonly T[]): T {
    return list[this.below(list.length)];
  }

  /** So many of a list, or all of a shorter one. */
  some<T>(list: readonly T[], count: number): T[] {
    return this.shuffled(list).slice(0, count);
  }

  shuffled<T>(list: readonly T[]): T[] {
    const copy = [...list];
    for (let i = copy.length - 1; i > 0; i--) {
      const k = this.below(i + 1);
      [copy[i], copy[k]] = [copy[k], copy[i]];
    }
    return copy;
  }
}
