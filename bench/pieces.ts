import { elementRefs } from "../core/plan/index.ts";
import { sweepFlows } from "../core/reports/index.ts";
import { NetworkModel } from "../core/scenario/index.ts";
import { cutSweep } from "../server/jobs/cut.ts";
import { fleet } from "./fleet.ts";
import { mesh } from "./fleets/mesh.ts";
import { cpuOf } from "./scale/cpu.ts";

/** Speedup of a sweep with more workers: `npm run bench:pieces`. Each piece is computed and timed here alone, and the
 * total for n workers is derived: each compiles the plan once, then takes the next piece when it has finished one. */
const WORKERS = [1, 2, 4, 8, 16, 32];
const plans = [
  { plan: fleet({ devices: 1000, links: 2000, flows: 500, routes: 30_000 }), depth: 1 },
  { plan: fleet({ devices: 2500, links: 5000, flows: 1250, routes: 75_000 }), depth: 1 },
  { plan: mesh(8, 32), depth: 3 },
] as const;

console.log(`| plan | pieces | whole | compile | ${WORKERS.map((n) => `${n}`).join(" | ")} |`);
console.log(`|---|---|---|---|${"---|".repeat(WORKERS.length)}`);
for (const { plan, depth } of plans) {
  let model = NetworkModel.compile(plan);
  const run = (flows: typeof plan.flows, number: number, of: number) =>
    sweepFlows(model.engine, model.gateways, depth, undefined, flows, { number, of });
  run(plan.flows.slice(0, 8), 0, 1);
  const compile = cpuOf(() => {
    model = NetworkModel.compile(plan);
  });
  const whole = cpuOf(() => run(plan.flows, 0, 1));
  model = NetworkModel.compile(plan);
  const pieces = cutSweep(plan.flows.length, elementRefs(plan).length, depth).map(
    ({ firstFlow, endFlow, part, parts }) =>
      cpuOf(() => run(plan.flows.slice(firstFlow, endFlow), part, parts)),
  );
  const alone = endWith(1, pieces, compile);
  const cells = WORKERS.map((n) => {
    const end = endWith(n, pieces, compile);
    return `${seconds(end)}, ${(alone / end).toFixed(1)} times`;
  });
  const name = `${plan.name}, to depth ${depth}`;
  console.log(
    `| ${name} | ${pieces.length} | ${seconds(whole)} | ${seconds(compile)} | ${cells.join(" | ")} |`,
  );
}

/** The time until the last of the workers ends. */
function endWith(workers: number, pieces: readonly number[], compile: number): number {
  const ends = Array.from({ length: workers }, () => compile);
  for (const piece of pieces) {
    const next = ends.indexOf(Math.min(...ends));
    ends[next] += piece;
  }
  return Math.max(...ends);
}

function seconds(ms: number): string {
  return `${(ms / 1000).toFixed(1)} s`;
}
