import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { formatPlanError } from "../core/plan/index.ts";
import { readPlanText } from "../exchange/plan-text.ts";
import { migrate } from "./migrate.ts";
import { createPlan } from "./plans.ts";
import { database } from "./pool.ts";
import { keepSetting } from "./settings.ts";

const shipped = ["marrow-bay", "three-routers"];

/** Migrates, and loads each shipped plan once. Run by bin/start before the server. */
async function prepare() {
  for (const name of await migrate()) console.log(`  migration ${name}`);
  for (const name of shipped) {
    const text = readFileSync(fileURLToPath(new URL(`../demo/${name}.yaml`, import.meta.url)), "utf8");
    const reading = readPlanText(text);
    if (!reading.ok) throw new Error(`demo/${name}.yaml: ${reading.errors.map(formatPlanError).join("; ")}`);
    const ticket = randomUUID();
    if ((await keepSetting(`shipped plan ${name}`, ticket)) !== ticket) continue;
    const author = { session: "00000000-0000-0000-0000-000000000000", name: "Iron Fork" };
    await createPlan(reading.plan, author, "shipped with the product");
    console.log(`  plan loaded: ${reading.plan.name}`);
  }
  await database().end();
}

await prepare();
