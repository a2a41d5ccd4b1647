import { readFileSync, writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { z } from "zod";
import { planSchema } from "../core/plan/index.ts";
import { outputSchemas } from "./output-schemas.ts";

/** The JSON Schemas in docs/: of the plan document as people write it, and of what each command prints. */
const documents: Record<string, () => unknown> = {
  "plan.schema.json": () => ({
    title: "Iron Fork plan, version 1",
    ...z.toJSONSchema(planSchema, { io: "input", unrepresentable: "any" }),
  }),
  "output.schema.json": () => ({
    title: "What the command line prints with --json, by command",
    $defs: Object.fromEntries(
      Object.entries(outputSchemas).map(([name, schema]) => [name, z.toJSONSchema(schema)]),
    ),
  }),
};

// With --check the files are compared instead of written: the schemas in docs/ must be today's.
for (const [name, make] of Object.entries(documents)) {
  const path = fileURLToPath(new URL(`../docs/${name}`, import.meta.url));
  const text = `${JSON.stringify(make(), null, 2)}\n`;
  if (!process.argv.includes("--check")) writeFileSync(path, text);
  else if (readFileSync(path, "utf8") !== text) {
    console.error(`docs/${name} is out of date; run npm run schema`);
    process.exitCode = 1;
  }
}
