import { expect } from "vitest";
import type { Plan } from "../../core/plan/index.ts";
import type { Readings } from "../../exchange/readings.ts";
import { rebuildPlan } from "../../exchange/rebuild/plan.ts";
import { engineOf, tripOf } from "../support/plans.ts";

/** A host's first address: the ping target. */
export function addressOf(plan: Plan, host: string): string {
  return plan.devices.find(({ id }) => id === host)?.interfaces[0].addresses[0].split("/")[0] ?? "";
}

/** How each flow of the plan is pinged. */
export function pingsOf(plan: Plan): { from: string; source: string; to: string }[] {
  return plan.flows.map(({ from, to }) => ({ from, source: addressOf(plan, from), to: addressOf(plan, to) }));
}

/** Checks that the devices' readings make a plan with the actual links, whose predictions match the pings. `more`:
 * additional links of the lab, by their ends. */
export function expectReadAlike(
  plan: Plan,
  readings: Readings,
  answered: readonly boolean[],
  more: readonly string[][] = [],
) {
  expect(readings.lines.filter(({ fate }) => fate === "not-understood")).toEqual([]);
  const outcome = rebuildPlan(readings, "read");
  if (!outcome.ok) throw new Error(outcome.errors[0].message);
  const { plan: read } = outcome.rebuilt;
  // Next hops without an owner are outlined on their link, and are not ends of the actual one.
  const joined = (links: readonly { ends: readonly string[] }[]) =>
    links
      .map(({ ends }) => ends.filter((end) => !end.startsWith("unknown-")))
      .flatMap((ends) => (ends.length > 1 ? [[...ends].sort().join(" ")] : []))
      .sort();
  expect(joined(read.links)).toEqual(joined([...plan.links, ...more.map((ends) => ({ ends }))]));
  const { world } = engineOf(read).healthy;
  for (const [i, flow] of plan.flows.entries()) {
    // Between the addresses that were pinged, whatever else the hosts have.
    const trip = tripOf(world, flow.from, addressOf(plan, flow.to), { source: addressOf(plan, flow.from) });
    const works = trip.verdict === "works";
    expect({ flow: flow.id, works }).toEqual({ flow: flow.id, works: answered[i] });
  }
}
