// Bundles what runs on Node into build/: the sweep worker, the web server with its threads, the set-up of the
// database. Plain JavaScript that starts at once and runs at full speed. A folder given takes the worker alone.
import { build } from "esbuild";
import { buildCli } from "./build-cli.mjs";
import { versions } from "./source-version.mjs";

const common = {
  bundle: true,
  platform: "node",
  format: "esm",
  target: "node20",
  packages: "external",
  sourcemap: true,
  define: versions(),
  logLevel: "warning",
};
const alone = process.argv[2];

await build({
  ...common,
  entryPoints: {
    main: "worker/main.ts",
    compute: "worker/compute.ts",
    parse: "worker/parse.ts",
    lab: "lab/main.ts",
    agent: "lab/agent/main.ts",
  },
  outdir: alone ?? "build/worker",
});
if (!alone) {
  await build({
    ...common,
    entryPoints: ["server/http/main.ts", "server/http/thread.ts"],
    outdir: "build/serve",
  });
  await buildCli();
}
