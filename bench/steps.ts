import type { Device, Plan } from "../core/plan/index.ts";
import { NetworkModel } from "../core/scenario/index.ts";
import { runbookOf, stepCount } from "../core/steps/index.ts";
import { fleet } from "./fleet.ts";

/** Times the order of changes, both plans' compiling included: npm run bench:steps. Single runs. */
function drafted(plan: Plan, count: number, change: (device: Device, n: number) => Device | null): Plan {
  let n = 0;
  const devices = plan.devices.map((device) => {
    const changed = n < count && device.id.startsWith("site") ? change(device, n) : null;
    if (changed) n++;
    return changed ?? device;
  });
  if (n < count) throw new Error(`only ${n} devices to change`);
  return { ...plan, devices };
}

/** The first of a site's two defaults gets another distance. */
function anotherDistance(device: Device, n: number): Device | null {
  const defaults = device.routes.filter(({ to }) => to === "0.0.0.0/0");
  if (defaults.length < 2) return null;
  const routes = device.routes.map((r) => (r === defaults[0] ? { ...r, distance: 5 + (n % 3) } : r));
  return { ...device, routes };
}

const cases: [string, Plan, number][] = [
  ["60 steps on 200 devices", fleet({ devices: 200, links: 400, flows: 100, routes: 4000 }), 60],
  ["18 steps on 1,000 devices", fleet({ devices: 1000, links: 2000, flows: 500, routes: 20_000 }), 18],
];
for (const [name, plan, count] of cases) {
  const wanted = drafted(plan, count, anotherDistance);
  const start = performance.now();
  const outcome = runbookOf(NetworkModel.compile(plan), NetworkModel.compile(wanted));
  const seconds = (performance.now() - start) / 1000;
  if (!outcome) throw new Error("no order");
  const { safe, visits, anyOrder } = outcome.runbook;
  const steps = stepCount({ visits });
  console.log(
    `${name}: ${seconds.toFixed(1)} s; ${steps} steps in ${visits.length} visits, ${safe ? "safe" : "not safe"}, ${anyOrder.flat().length} visits in runs whose order does not matter`,
  );
}
