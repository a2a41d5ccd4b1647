/** Processor time of a piece of work in milliseconds, the collector's among it. */
export function cpuOf(work: () => unknown): number {
  const before = process.cpuUsage();
  work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1000;
}

/** The median of some runs. */
export function medianOf(runs: number, work: () => unknown): number {
  const times = Array.from({ length: runs }, () => cpuOf(work)).sort((a, b) => a - b);
  return times[runs >> 1];
}

/**
 * How fast this machine is at the moment, as the processor time of work that never changes: maps, sorting, typed
 * arrays and small objects, in about the shares in which the engine uses them.
 */
export function calibration(): number {
  return medianOf(5, () => {
    const map = new Map<string, number>();
    const list: { key: number; text: string }[] = [];
    let seed = 1;
    for (let n = 0; n < 60_000; n++) {
      seed = (Math.imul(seed, 1_103_515_245) + 12_345) >>> 0;
      map.set(`${seed % 5000} ${n & 7}`, n);
      list.push({ key: seed % 1000, text: "" });
    }
    list.sort((a, b) => a.key - b.key);
    const numbers = new Int32Array(1 << 20);
    for (let n = 0; n < 4_000_000; n++) numbers[Math.imul(n, 40_503) & ((1 << 20) - 1)] += n;
    return map.size + numbers[7] + list.length;
  });
}
