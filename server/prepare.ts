import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { editSchema, formatPlanError, type Plan } from "../core/plan/index.ts";
import { readPlanText } from "../exchange/plan-text.ts";
import { grantDataRights } from "./data-rights.ts";
import { QUEUE_SCHEMA, Queue } from "./jobs/queue.ts";
import { migrate } from "./migrate.ts";
import { createPlan, saveEdit } from "./plans.ts";
import { database } from "./pool.ts";
import { keepSetting } from "./settings.ts";
import { sealOldSecrets } from "./webhooks/webhooks.ts";

const shipped: readonly Shipped[] = [
  { name: "marrow-bay" },
  { name: "three-routers" },
  { name: "marrow-bay.change", of: "marrow-bay", title: "Marrow Bay Ferries, with a change drafted" },
];

/** A plan that comes with the product: its document, or a change of another one's, which is there as a draft. */
interface Shipped {
  readonly name: string;
  readonly of?: string;
  readonly title?: string;
}

const author = { session: "00000000-0000-0000-0000-000000000000", name: "Iron Fork" };

/** Migrates, and loads each shipped plan once. Run by bin/start before the server. */
async function prepare() {
  for (const name of await migrate()) console.log(`  migration ${name}`);
  for (const one of shipped) {
    const plan = planOf(one.of ?? one.name);
    const ticket = randomUUID();
    if ((await keepSetting(`shipped plan ${one.name}`, ticket)) !== ticket) continue;
    const id = await createPlan({ ...plan, name: one.title ?? plan.name }, author, "the demo plan");
    if (one.of) {
      const saved = await saveEdit(id, 1, editSchema.parse(JSON.parse(textOf(`${one.name}.json`))), author);
      if (!saved.ok)
        throw new Error(`demo/${one.name}.json: ${saved.errors.map(formatPlanError).join("; ")}`);
    }
    console.log(`  plan loaded: ${one.title ?? plan.name}`);
  }
  // The queue's tables are made by their owner, once.
  await (await Queue.open({ tend: true })).close();
  await grantDataRights(database(), QUEUE_SCHEMA);
  // Without a key nothing can be sealed; there is nothing to seal either, but in a database of before.
  await sealOldSecrets().catch((error) => console.log(`  webhooks: ${error.message}`));
  await database().end();
}

function textOf(file: string): string {
  return readFileSync(fileURLToPath(new URL(`../demo/${file}`, import.meta.url)), "utf8");
}

function planOf(name: string): Plan {
  const reading = readPlanText(textOf(`${name}.yaml`));
  if (!reading.ok) throw new Error(`demo/${name}.yaml: ${reading.errors.map(formatPlanError).join("; ")}`);
  return reading.plan;
}

await prepare();
