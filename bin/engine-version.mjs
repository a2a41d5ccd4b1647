// The version of the engine: a digest of core/. What one version worked out is not taken for another's.
import { createHash } from "node:crypto";
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { fileURLToPath } from "node:url";

const core = fileURLToPath(new URL("../core/", import.meta.url));

export function engineVersion() {
  const digest = createHash("sha256");
  const files = readdirSync(core, { recursive: true })
    .map(String)
    .filter((name) => name.endsWith(".ts") && !name.endsWith(".test.ts"))
    .sort();
  for (const name of files) digest.update(`${name}\n`).update(readFileSync(join(core, name)));
  return digest.digest("hex").slice(0, 16);
}

if (process.argv[1] === fileURLToPath(import.meta.url)) console.log(engineVersion());
