import { execFileSync } from "node:child_process";
import { fileURLToPath } from "node:url";

/** How long the command line takes for a small question: bundled, through the loader, and Node alone, in turn. */
const root = fileURLToPath(new URL("../", import.meta.url));
const plan = "demo/marrow-bay.yaml";
const ways: Record<string, string[]> = {
  "Node alone": ["-e", "0"],
  "bundled (npx iron-fork)": ["bin/iron-fork.mjs", "check", plan],
  "through the loader": ["--import", "tsx", "cli/entry.ts", "check", plan],
};
const RUNS = 9;

execFileSync("node", ["bin/build-cli.mjs"], { cwd: root });
const times = new Map(Object.keys(ways).map((name) => [name, [] as number[]]));
for (let run = 0; run < RUNS; run++) {
  for (const [name, args] of Object.entries(ways)) {
    const started = performance.now();
    execFileSync("node", args, { cwd: root, stdio: "ignore" });
    times.get(name)?.push(performance.now() - started);
  }
}
for (const [name, list] of times) {
  list.sort((a, b) => a - b);
  const [least, median, most] = [list[0], list[RUNS >> 1], list[RUNS - 1]].map((ms) => Math.round(ms));
  console.log(`${name.padEnd(26)} ${least} / ${median} / ${most} ms (least, median, most of ${RUNS})`);
}
