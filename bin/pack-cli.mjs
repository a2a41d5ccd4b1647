// Packs the command line, without the application, as an npm package for other repositories. The folder for the tarball may
// be given; default: build/. Prints the tarball's path.
import { execFileSync } from "node:child_process";
import { chmodSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { resolve } from "node:path";
import { fileURLToPath } from "node:url";
import { bundleCli } from "./build-cli.mjs";

const root = fileURLToPath(new URL("../", import.meta.url));
const target = resolve(process.argv[2] ?? `${root}build`);
const folder = `${root}build/cli-package.${process.pid}`;

mkdirSync(folder, { recursive: true });
try {
  const { version, license, engines, description } = JSON.parse(readFileSync(`${root}package.json`, "utf8"));
  await bundleCli(`${folder}/iron-fork.cjs`, "#!/usr/bin/env node");
  chmodSync(`${folder}/iron-fork.cjs`, 0o755);
  const bin = { "iron-fork": "iron-fork.cjs" };
  const described = { name: "iron-fork-cli", version, description, license, engines, bin };
  writeFileSync(`${folder}/package.json`, JSON.stringify(described, null, 2));
  const packed = execFileSync("npm", ["pack", "--json", "--pack-destination", target], {
    cwd: folder,
    encoding: "utf8",
    stdio: ["ignore", "pipe", "ignore"],
  });
  console.log(`${target}/${JSON.parse(packed)[0].filename}`);
} finally {
  rmSync(folder, { recursive: true, force: true });
}
