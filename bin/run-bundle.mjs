// Runs the bundled command line from compiled code stored at build time: compiling takes a third of a small question's
// time. Run directly, it answers a batch and stores the compiled code.
import { createHash } from "node:crypto";
import { readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { basename, dirname } from "node:path";
import { fileURLToPath } from "node:url";
import { Script } from "node:vm";

const bundle = fileURLToPath(new URL("../build/cli/iron-fork.cjs", import.meta.url));

/** Code of another bundle, or of another version of Node, is not taken: it is compiled anew then. */
export function runBundle({ keep = false } = {}) {
  const source = readFileSync(bundle, "utf8");
  const kept = `${bundle}.${createHash("sha256").update(source).digest("hex").slice(0, 16)}`;
  const script = new Script(`(function (exports, require, module) {${source}\n})`, {
    filename: bundle,
    cachedData: keep ? undefined : readIfThere(kept),
  });
  const module = { exports: {} };
  script.runInThisContext()(module.exports, createRequire(bundle), module);
  if (keep) {
    process.on("exit", () => {
      writeFileSync(`${kept}.${process.pid}`, script.createCachedData());
      renameSync(`${kept}.${process.pid}`, kept);
      for (const name of readdirSync(dirname(bundle)))
        if (/^iron-fork\.cjs\.[0-9a-f]{16}$/.test(name) && name !== basename(kept))
          rmSync(`${dirname(bundle)}/${name}`, { force: true });
    });
  }
}

function readIfThere(path) {
  try {
    return readFileSync(path);
  } catch {
    return undefined;
  }
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  process.argv.push("batch");
  runBundle({ keep: true });
}
