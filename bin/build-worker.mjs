// Bundles the sweep worker into build/worker/, or the folder given: plain JavaScript that starts at once and
// runs at full speed.
import { build } from "esbuild";
import { engineVersion } from "./engine-version.mjs";

await build({
  entryPoints: ["worker/main.ts", "worker/compute.ts"],
  outdir: process.argv[2] ?? "build/worker",
  bundle: true,
  platform: "node",
  format: "esm",
  target: "node20",
  packages: "external",
  sourcemap: true,
  define: { __ENGINE_VERSION__: JSON.stringify(engineVersion()) },
  logLevel: "warning",
});
