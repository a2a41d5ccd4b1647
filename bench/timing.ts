/** The best of several runs, in milliseconds: what the machine can do when nothing disturbs it. */
export function bestOf<T>(runs: number, work: () => T): { ms: number; result: T } {
  let best = Number.POSITIVE_INFINITY;
  let result = work();
  for (let i = 0; i < runs; i++) {
    const start = performance.now();
    result = work();
    best = Math.min(best, performance.now() - start);
  }
  return { ms: best, result };
}

export interface Row {
  what: string;
  measured: string;
  baseline: string;
  target: string;
}

export function printRows(rows: readonly Row[]) {
  console.log("| what | measured | plain baseline | target |\n|---|---|---|---|");
  for (const row of rows) console.log(`| ${row.what} | ${row.measured} | ${row.baseline} | ${row.target} |`);
}
