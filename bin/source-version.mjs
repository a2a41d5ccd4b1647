// Versions of parts of the program: digests of their sources without comments. Answers computed by one version are not used by another.
import { createHash } from "node:crypto";
import { readdirSync, readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { transformSync } from "esbuild";

const root = fileURLToPath(new URL("../", import.meta.url));

/** The version of a folder's sources, tests left out; `libraries` count by their versions. */
function versionOf(folder, libraries = []) {
  const digest = createHash("sha256");
  const files = readdirSync(join(root, folder), { recursive: true })
    .map(String)
    .filter((name) => /\.tsx?$/.test(name) && !/\.test\.tsx?$/.test(name))
    .sort();
  for (const name of files) {
    const text = readFileSync(join(root, folder, name), "utf8");
    const loader = name.endsWith("x") ? "tsx" : "ts";
    digest.update(`${name}\n`).update(transformSync(text, { loader, legalComments: "none" }).code);
  }
  const require = createRequire(import.meta.url);
  for (const library of libraries)
    digest.update(`${library} ${require(`${library}/package.json`).version}\n`);
  return digest.digest("hex").slice(0, 16);
}

/** Constants that replace names of the code at build time. */
export function versions() {
  return {
    __ENGINE_VERSION__: JSON.stringify(versionOf("core")),
    __DRAWING_VERSION__: JSON.stringify(versionOf("app/drawing", ["elkjs"])),
  };
}
