#!/usr/bin/env node
// Runs the bundled command line; bundles it first where a source is newer than it.
import { readdirSync, statSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { runBundle } from "./run-bundle.mjs";

const root = fileURLToPath(new URL("../", import.meta.url));
const bundle = `${root}build/cli/iron-fork.cjs`;

function newest(folder) {
  let latest = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = `${folder}/${entry.name}`;
    if (entry.isDirectory()) latest = Math.max(latest, newest(path));
    else if (entry.name.endsWith(".ts")) latest = Math.max(latest, statSync(path).mtimeMs);
  }
  return latest;
}

function upToDate() {
  const built = statSync(bundle, { throwIfNoEntry: false })?.mtimeMs ?? 0;
  return built > 0 && ["core", "cli", "exchange"].every((folder) => newest(root + folder) <= built);
}

if (!upToDate()) {
  const { buildCli } = await import("./build-cli.mjs");
  await buildCli();
}
runBundle();
