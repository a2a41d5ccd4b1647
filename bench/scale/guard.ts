import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { calibration, cpuOf } from "./cpu.ts";
import { type Measure, measures } from "./measures.ts";

/** Fails if a measurement exceeds its stored value by over a quarter: `npm run bench:guard`; `--keep` stores new
 * values. Times are relative to a constant workload timed just before, so that other or busy machines measure about the
 * same. */
const file = join(process.cwd(), "bench/scale/kept.json");
const keep = process.argv.includes("--keep");
const MOST = 1.25;
/** Apparent slowdowns are timed this often: the minimum is the undisturbed time. The median is stored, so that a lucky
 * run does not set the mark. */
const TRIES = 7;

const kept: Record<string, number> = keep ? {} : JSON.parse(readFileSync(file, "utf8"));
const measured: Record<string, number> = {};
const slower: string[] = [];
for (const measure of measures) {
  const was = kept[measure.name];
  let least = Number.POSITIVE_INFINITY;
  const times: number[] = [];
  const work = prepared(measure);
  for (let n = 0; n < TRIES && (keep || was === undefined || least > was * MOST); n++) {
    const unit = calibration();
    times.push(cpuOf(work) / unit);
    least = Math.min(least, times[n]);
  }
  const median = times.sort((a, b) => a - b)[times.length >> 1];
  measured[measure.name] = Number((keep ? median : least).toFixed(3));
  const told = was === undefined ? "not kept yet" : `${(least / was).toFixed(2)} of the kept value`;
  console.log(`${measure.name}: ${least.toFixed(2)} units${keep ? "" : `, ${told}`}`);
  if (!keep && (was === undefined || least > was * MOST)) slower.push(measure.name);
}
if (keep) writeFileSync(file, `${JSON.stringify(measured, null, 2)}\n`);
if (slower.length) {
  console.error(`Over a quarter slower than kept, or never kept: ${slower.join("; ")}.`);
  process.exitCode = 1;
}

function prepared({ fleet, ready, sizes }: Measure): () => unknown {
  const work = ready(fleet(sizes[0]));
  work();
  return work;
}
