import { type SpawnSyncReturns, spawnSync } from "node:child_process";

/** Runs a program to its end; throws its output if it fails, unless `mayFail`. */
export function run(command: string, args: readonly string[], mayFail = false): SpawnSyncReturns<string> {
  const done = spawnSync(command, args, { encoding: "utf8" });
  if (!mayFail && done.status !== 0)
    throw new Error(`${command} ${args.join(" ")}: ${done.stderr || done.error}`);
  return done;
}

/** Runs lines of iproute2 at once, in a namespace or on the machine; `family` is the default family. */
export function batch(namespace: string | null, lines: readonly string[], family?: 4 | 6) {
  if (lines.length === 0) return;
  const args = [...(namespace ? ["-n", namespace] : []), ...(family ? [`-${family}`] : []), "-batch", "-"];
  const done = spawnSync("ip", args, { input: `${lines.join("\n")}\n`, encoding: "utf8" });
  if (done.status !== 0) throw new Error(`ip -batch in ${namespace ?? "this machine"}: ${done.stderr}`);
}
