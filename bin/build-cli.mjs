// Bundles the command line into one file, build/cli/iron-fork.cjs: a loader would take most of the time that it runs.
// Beside it lies what the compiler makes of it.
import { execFileSync } from "node:child_process";
import { fileURLToPath } from "node:url";
import { build } from "esbuild";

const root = fileURLToPath(new URL("../", import.meta.url));

/** The questions run while compiled code is collected: the most common ones. */
const questions = [
  ["check", "demo/marrow-bay.yaml"],
  ["check", "demo/marrow-bay.yaml", "--json"],
  ["findings", "demo/marrow-bay.yaml"],
];

/** Bundles the command line into a file. */
export function bundleCli(outfile, banner = "") {
  return build({
    absWorkingDir: root,
    entryPoints: ["cli/entry.ts"],
    outfile,
    banner: { js: banner },
    bundle: true,
    platform: "node",
    format: "cjs",
    mainFields: ["module", "main"],
    target: "node20",
    minify: true,
    logLevel: "warning",
  });
}

export async function buildCli() {
  await bundleCli("build/cli/iron-fork.cjs");
  execFileSync(process.execPath, [`${root}bin/run-bundle.mjs`], {
    cwd: root,
    input: questions.map((question) => JSON.stringify(question)).join("\n"),
    stdio: ["pipe", "ignore", "inherit"],
  });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await buildCli();
