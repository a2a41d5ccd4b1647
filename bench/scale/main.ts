import { elementCount } from "../../core/network/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { recomputeAll } from "../engine.ts";
import { cpuOf, medianOf } from "./cpu.ts";
import { type Measure, measures } from "./measures.ts";

/** The engine's times on fleets of every shape, and their growth: `npm run bench:scale`, optionally with a filter. */
const wanted = process.argv[2] ?? "";

/** How often a thing is done, by how long it takes: its code is compiled first, then the median counts. */
const RUNS = [
  { belowMs: 200, warm: 40, runs: 20 },
  { belowMs: 1500, warm: 8, runs: 9 },
  { belowMs: Number.POSITIVE_INFINITY, warm: 0, runs: 3 },
];

console.log("| what | sizes | CPU time | grows | everything anew |\n|---|---|---|---|---|");
for (const measure of measures.filter(({ name }) => name.includes(wanted))) {
  const [small, large] = measure.sizes;
  const [a, b] = [timeAt(measure, small), timeAt(measure, large)];
  const growth = Math.log(b / a) / Math.log(large / small);
  const anew = measure.anew ? told(anewAt(measure, large), b) : "–";
  console.log(
    `| ${measure.name} | ${small}; ${large} | ${ms(a)}; ${ms(b)} | n^${growth.toFixed(1)} | ${anew} |`,
  );
}

function timeAt({ fleet, ready }: Measure, size: number): number {
  const work = ready(fleet(size));
  work();
  const once = cpuOf(work);
  const { warm, runs } = RUNS.find(({ belowMs }) => once < belowMs) ?? RUNS[RUNS.length - 1];
  for (let n = 0; n < warm; n++) work();
  return medianOf(runs, work);
}

/** Computing every single failure without reuse, extrapolated from three. */
function anewAt({ fleet }: Measure, size: number): number {
  const { engine } = NetworkModel.compile(fleet(size));
  const elements = elementCount(engine.network);
  const sample = [1, 2, 3].map((n) => cpuOf(() => recomputeAll(engine, Math.floor((n * elements) / 4))));
  return (sample.reduce((sum, time) => sum + time, 0) / sample.length) * elements;
}

function told(anew: number, ours: number): string {
  return `${(anew / 1000).toFixed(0)} s, ${(anew / ours).toFixed(0)} times as long`;
}

function ms(time: number): string {
  return time < 1000 ? `${time.toFixed(0)} ms` : `${(time / 1000).toFixed(2)} s`;
}
