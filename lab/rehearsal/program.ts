import { fileURLToPath } from "node:url";
import { build } from "esbuild";

/** Bundles the agent into one file that Node starts at once. */
export async function bundleAgent(outfile: string): Promise<void> {
  await build({
    entryPoints: [fileURLToPath(new URL("../agent/main.ts", import.meta.url))],
    outfile,
    bundle: true,
    platform: "node",
    format: "esm",
    target: "node20",
    logLevel: "warning",
  });
}
