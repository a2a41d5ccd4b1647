import { hostname } from "node:os";
import { Command, InvalidArgumentError } from "commander";
import { canBuild } from "../lab/lab.ts";
import { rescuePieces } from "../server/jobs/pieces.ts";
import { Queue } from "../server/jobs/queue.ts";
import { LOST_AFTER_S } from "../server/jobs/sweeps.ts";
import { allowedPrefixes } from "../server/live/allowed.ts";
import { log } from "../server/log.ts";
import { database } from "../server/pool.ts";
import { deliverWhenDue, hookPrefixes } from "../server/webhooks/deliver.ts";
import { readAsAsked, readWhenDue } from "./readings.ts";
import { rehearseAsAsked } from "./rehearsals.ts";
import { workOnPieces } from "./work.ts";

const positive = (text: string) => {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1)
    throw new InvalidArgumentError("It must be a whole number of at least 1.");
  return value;
};

/** A worker process: takes pieces of sweeps from the database until it is stopped. */
async function main() {
  const options = new Command("worker")
    .description("Computes simulations and polls devices for the application that shares its database.")
    .option("--threads <n>", "pieces computed at the same time", positive, 1)
    .option(
      "--lost-after <seconds>",
      "silence after which another worker's piece is restarted",
      positive,
      LOST_AFTER_S,
    )
    .option("--readers <n>", "devices polled at the same time", positive, 8)
    .option("--no-rehearsals", "do not run lab rehearsals on this machine")
    .parse()
    .opts<{ threads: number; lostAfter: number; readers: number; rehearsals: boolean }>();
  const queue = await Queue.open({ tend: true });
  const ending = new AbortController();
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => ending.abort());
  const rescue = setInterval(async () => {
    const count = await rescuePieces(queue, options.lostAfter).catch(() => 0);
    if (count > 0) log.info({ pieces: count }, "restarted pieces of workers that stopped responding");
  }, 2000);
  log.info({ threads: options.threads }, "worker ready");
  // A worker that may read nothing leaves readings to those that may.
  const { prefixes, problem } = allowedPrefixes();
  const reads = prefixes.length > 0;
  if (problem !== "") log.warn({ problem }, "polling is off");
  const rehearses = options.rehearsals && canBuild();
  if (!rehearses) log.info("lab rehearsals are off: they need Linux, root, iproute2, nftables and ping");
  const names = Array.from({ length: options.threads }, (_, n) => `${hostname()} ${process.pid} ${n}`);
  await Promise.all([
    ...names.map((name) => workOnPieces(queue, name, ending.signal)),
    ...(hookPrefixes().length > 0 ? [deliverWhenDue(ending.signal)] : []),
    ...(rehearses ? [rehearseAsAsked(queue, ending.signal)] : []),
    ...(reads ? [readWhenDue(queue, ending.signal), readAsAsked(queue, options.readers, ending.signal)] : []),
  ]);
  clearInterval(rescue);
  await queue.close();
  await database().end();
}

await main();
