import { differencePlans } from "../core/plan/index.ts";
import { readFiles } from "../exchange/readings.ts";
import { mergeInto } from "../exchange/rebuild/merge.ts";
import { rebuildPlan } from "../exchange/rebuild/plan.ts";
import { bundleOf } from "./bundle.ts";
import { fleet } from "./fleet.ts";

/** Times the processing of device readings: npm run bench:reading. CPU time, single runs. */
const cpu = () => {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1000;
};

for (const devices of [60, 250, 1000]) {
  const plan = fleet({ devices, links: devices * 2, flows: 10, routes: devices * 20 });
  const files = bundleOf(plan);
  const megabytes = files.reduce((sum, { text }) => sum + text.length, 0) / 1e6;
  const started = cpu();
  const readings = readFiles(files);
  const read = cpu();
  const outcome = rebuildPlan(readings, "read");
  if (!outcome.ok) throw new Error(outcome.errors[0].message);
  const rebuilt = cpu();
  const merged = mergeInto(
    { ...plan, devices: [], links: [], flows: [], gateways: [], outages: [] },
    outcome.rebuilt,
  );
  if (!merged.ok) throw new Error(merged.errors[0].message);
  differencePlans({ ...plan, devices: [], links: [], flows: [], gateways: [], outages: [] }, merged.plan);
  const done = cpu();
  console.log(
    `${devices} devices, ${files.length} files, ${megabytes.toFixed(1)} MB: read ${(read - started).toFixed(0)} ms, rebuilt ${(rebuilt - read).toFixed(0)} ms, merged ${(done - rebuilt).toFixed(0)} ms`,
  );
}
