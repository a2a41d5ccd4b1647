// Bundles the command line into one file, build/cli/iron-fork.js: a loader would take most of the time that it runs.
import { fileURLToPath } from "node:url";
import { build } from "esbuild";

const root = fileURLToPath(new URL("../", import.meta.url));

export async function buildCli() {
  await build({
    absWorkingDir: root,
    entryPoints: ["cli/entry.ts"],
    outfile: "build/cli/iron-fork.js",
    bundle: true,
    platform: "node",
    format: "esm",
    mainFields: ["module", "main"],
    target: "node20",
    // Packages in CommonJS ask for Node's own modules by require.
    banner: {
      js: 'import { createRequire } from "node:module"; const require = createRequire(import.meta.url);',
    },
    minify: true,
    logLevel: "warning",
  });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await buildCli();
