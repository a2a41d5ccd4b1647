import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { findAll } from "../../core/findings/index.ts";
import type { Plan } from "../../core/plan/index.ts";
import {
  steadyPathReport,
  sweepReport,
  tableReport,
  timelineReport,
  watchesOf,
} from "../../core/reports/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { demoPlan } from "../support/plans.ts";
import { Random } from "../support/random.ts";
import { withOddities, withWatches } from "../support/random-extras.ts";
import { randomPlan } from "../support/random-plan.ts";
import { bundleOfTwo, pairOfFirewalls, twoGateways } from "../support/shared-plans.ts";

/** Everything that reports say of a plan, a line each: what a change of the engine changes shows as changed lines. */
function reportsOf(plan: Plan): string {
  const model = NetworkModel.compile(plan);
  const { engine, gateways, world } = model;
  const tables = model.network.devices.flatMap(({ index, vrfs }) =>
    vrfs.flatMap((vrf) => {
      const { device, routes, policyTables = [] } = tableReport(world, index, vrf);
      const all = [{ name: vrf, routes }, ...policyTables];
      return all.flatMap((table) => table.routes.map((route) => ["route", device, table.name, route]));
    }),
  );
  const watches = model.network.devices.flatMap(({ id, index }) =>
    watchesOf(world, index).map(({ watch, ...more }) => ["watch", id, watch.id, more]),
  );
  const paths = model
    .flows()
    .map(({ flow, question }) => ["path", flow.id, steadyPathReport(engine.healthy, gateways, question)]);
  const sweeps = sweepReport(engine, gateways, 1).flows.flatMap(({ id, nominal, failures, ...more }) => [
    ["sweep", id, nominal, more],
    ...failures.map(({ failed, ...failure }) => ["under", id, failed.join(" + "), failure]),
  ]);
  const outages =
    plan.outages.length > 0
      ? plan.outages
      : plan.links.slice(0, 3).map(({ id }) => ({
          id: `cut of ${id}`,
          steps: [
            { atMs: 0, fail: [`link:${id}`] },
            { atMs: 60_000, restore: [`link:${id}`] },
          ],
        }));
  const timelines = outages.flatMap(({ id, steps }) => {
    const { flows, events, ...more } = timelineReport(engine, gateways, model.stepsOf(steps));
    return [
      ["timeline", id, more],
      ...events.map((event) => ["event", id, event]),
      ...flows.map((flow) => ["outage", id, flow]),
    ];
  });
  const findings = findAll(model, { fixes: true }).map((finding) => ["finding", finding]);
  const lines = [...tables, ...watches, ...paths, ...sweeps, ...timelines, ...findings];
  return `${lines.map(([kind, ...rest]) => `${kind} ${rest.map((part) => (typeof part === "string" ? part : JSON.stringify(part))).join(" ")}`).join("\n")}\n`;
}

const random = (seed: number, extra: (plan: Plan, random: Random) => Plan, family: 4 | 6 = 4) =>
  extra(randomPlan(seed, { mistakes: true, family }), new Random(seed));

// Update with `npx vitest run tests/golden -u`, and read the difference.
describe("all reports of a plan are as they were read and kept", () => {
  it.each<[string, Plan]>([
    ["demo", demoPlan("marrow-bay")],
    ["three-routers", demoPlan("three-routers")],
    ["virtual-routers", twoGateways({ a: { track: [{ interface: "wan", lower: 30 }] } })],
    ["pair", pairOfFirewalls({ pair: { monitor: ["outside"] } })],
    ["bundle", bundleOfTwo({ left: { minUp: 2 }, right: { lacp: "fast" } })],
    ["watches", random(4711, withWatches)],
    ["oddities", random(4808, withOddities)],
    ["ipv6", random(4905, withOddities, 6)],
  ])("%s", async (name, plan) => {
    await expect(reportsOf(plan)).toMatchFileSnapshot(join(import.meta.dirname, `${name}.txt`));
  });
});
