import { checks } from "../../core/findings/checks/index.ts";
import { Context } from "../../core/findings/context.ts";
import { reportsOf } from "../../core/findings/reports-of.ts";
import type { Plan } from "../../core/plan/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { fleet } from "../fleet.ts";
import { hubSpoke } from "../fleets/hub-spoke.ts";
import { mesh } from "../fleets/mesh.ts";
import { policyFleet } from "../fleets/policy.ts";
import { cpuOf } from "./cpu.ts";

/** Time per check, in the order of execution: `npm run bench:checks`. Shared results, such as the sweep, count for the
 * first check that uses them. The minimum of three runs, in milliseconds. */
const RUNS = 3;
/** Checks below this time on every fleet are not listed. */
const MIN_MS = 1;

const fleets: readonly (readonly [string, Plan])[] = [
  ["1,000 sites on hubs", fleet({ devices: 1000, links: 2000, flows: 500, routes: 20_000 })],
  ["mesh of 20 with watches", mesh(20)],
  ["100 spokes", hubSpoke(100)],
  ["policy, 100 sites", policyFleet(100)],
];

const times = fleets.map(([, plan]) => timesOf(plan));
console.log(`| check | ${fleets.map(([name]) => name).join(" | ")} |\n|---|${"---|".repeat(fleets.length)}`);
for (const [n, { code }] of checks.entries()) {
  const row = times.map((list) => list[n]);
  if (row.some((time) => time >= MIN_MS)) tell(code, row);
}
tell(
  "all",
  times.map((list) => list.reduce((sum, time) => sum + time, 0)),
);

function timesOf(plan: Plan): number[] {
  const least = checks.map(() => Number.POSITIVE_INFINITY);
  for (let run = 0; run < RUNS; run++) {
    const context = new Context(NetworkModel.compile(plan));
    for (const [n, check] of checks.entries()) {
      least[n] = Math.min(
        least[n],
        cpuOf(() => reportsOf(context, check)),
      );
    }
  }
  return least;
}

function tell(name: string, row: readonly number[]) {
  console.log(`| ${name} | ${row.map((time) => time.toFixed(0)).join(" | ")} |`);
}
