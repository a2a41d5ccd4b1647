import type { PlanError } from "./errors.ts";
import type { Plan } from "./plan.ts";

/** The limits of a plan. Errors, the README and docs/plan-document.md quote them. */
export const LIMITS = {
  devices: 5000,
  interfaces: 50_000,
  links: 20_000,
  /** Written, learned and announced, over all devices. */
  routes: 1_000_000,
  watches: 20_000,
  flows: 5000,
  gateways: 1000,
  outages: 1000,
  risks: 1000,
  pairs: 1000,
  profiles: 1000,
  /** Over all interfaces. */
  "virtual routers": 20_000,
  /** Characters of a document's text. */
  text: 64 * 1024 * 1024,
  /** Bytes of a document that the web interface takes at once. */
  upload: 16 * 1024 * 1024,
  /** Groups and lists in each other. */
  depth: 32,
  /** Profiles that one rests on, each the base of the one before. */
  bases: 16,
} as const;

const ofDevices = new Set(["interfaces", "routes", "watches", "virtual routers"]);

/** The limits that a plan exceeds. */
export function beyondLimits(plan: Plan): PlanError[] {
  const over = (count: (device: Plan["devices"][number]) => number) =>
    plan.devices.reduce((sum, device) => sum + count(device), 0);
  const counts = {
    devices: plan.devices.length,
    interfaces: over((d) => d.interfaces.length),
    links: plan.links.length,
    routes: over(
      (d) =>
        d.routes.length +
        d.learned.length +
        (d.announces?.length ?? 0) +
        d.policyTables.reduce((sum, table) => sum + table.routes.length, 0),
    ),
    watches: over((d) => d.watches.length),
    flows: plan.flows.length,
    gateways: plan.gateways.length,
    outages: plan.outages.length,
    risks: plan.risks.length,
    pairs: plan.pairs.length,
    profiles: plan.profiles.length,
    "virtual routers": over((d) => d.interfaces.reduce((sum, port) => sum + (port.virtual?.length ?? 0), 0)),
  };
  return Object.entries(counts).flatMap(([what, count]): PlanError[] => {
    const most = LIMITS[what as keyof typeof counts];
    if (count <= most) return [];
    const message = `the plan has ${count} ${what}; the limit is ${most}. Divide it into several plans`;
    return [{ path: ofDevices.has(what) ? "devices" : what, message }];
  });
}
