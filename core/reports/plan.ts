import type { Plan } from "../plan/index.ts";

/** What a plan holds, in numbers. */
export interface PlanCounts {
  devices: number;
  interfaces: number;
  links: number;
  routes: number;
  learned: number;
  watches: number;
  gateways: number;
  flows: number;
  outages: number;
}

export function countPlan(plan: Plan): PlanCounts {
  const over = (count: (device: Plan["devices"][number]) => number) =>
    plan.devices.reduce((sum, device) => sum + count(device), 0);
  return {
    devices: plan.devices.length,
    interfaces: over((d) => d.interfaces.length),
    links: plan.links.length,
    routes: over(
      (d) => d.routes.length + d.policyTables.reduce((sum, table) => sum + table.routes.length, 0),
    ),
    learned: over((d) => d.learned.length),
    watches: over((d) => d.watches.length),
    gateways: plan.gateways.length,
    flows: plan.flows.length,
    outages: plan.outages.length,
  };
}
