import { type SpawnSyncReturns, spawnSync } from "node:child_process";

/** Runs a program to its end; throws with what it said where it fails and may not. */
export function run(command: string, args: readonly string[], mayFail = false): SpawnSyncReturns<string> {
  const done = spawnSync(command, args, { encoding: "utf8" });
  if (!mayFail && done.status !== 0)
    throw new Error(`${command} ${args.join(" ")}: ${done.stderr || done.error}`);
  return done;
}

/** Gives lines to iproute2 at once, in a namespace or in the machine's own; in a family, where they do not say it themselves. */
export function batch(namespace: string | null, lines: readonly string[], family?: 4 | 6) {
  if (lines.length === 0) return;
  const args = [...(namespace ? ["-n", namespace] : []), ...(family ? [`-${family}`] : []), "-batch", "-"];
  const done = spawnSync("ip", args, { input: `${lines.join("\n")}\n`, encoding: "utf8" });
  if (done.status !== 0) throw new Error(`ip -batch in ${namespace ?? "this machine"}: ${done.stderr}`);
}
