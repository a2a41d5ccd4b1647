import { readFileSync, writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { z } from "zod";
import { planSchema } from "../core/plan/index.ts";

const path = fileURLToPath(new URL("../docs/plan.schema.json", import.meta.url));

/** The JSON Schema of the plan document, as people write it: defaults may be left out. */
function planJsonSchema(): string {
  const schema = z.toJSONSchema(planSchema, { io: "input", unrepresentable: "any" });
  return `${JSON.stringify({ title: "Iron Fork plan, version 1", ...schema }, null, 2)}\n`;
}

// With --check the file is compared instead of written: the schema in docs/ must be today's.
if (process.argv.includes("--check")) {
  if (readFileSync(path, "utf8") !== planJsonSchema()) {
    console.error("docs/plan.schema.json is not what core/plan says; run npm run schema");
    process.exitCode = 1;
  }
} else {
  writeFileSync(path, planJsonSchema());
}
