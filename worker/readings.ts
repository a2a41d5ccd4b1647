import { setTimeout as rest } from "node:timers/promises";
import { NetworkModel, type Scenario } from "../core/scenario/index.ts";
import { driftOf } from "../exchange/drift.ts";
import { readingOf } from "../exchange/facts/index.ts";
import { NotRead } from "../live/failure.ts";
import type { Limits } from "../live/limits.ts";
import { type Reading, readDevice } from "../live/read.ts";
import type { Queue } from "../server/jobs/queue.ts";
import { allowedPrefixes } from "../server/live/allowed.ts";
import { askDue, beatRun, type Claimed, claimRun, endRun } from "../server/live/runs.ts";
import { NoKey, unseal } from "../server/live/seal.ts";
import { placeOf } from "../server/live/targets.ts";
import { log } from "../server/log.ts";
import { documentOf, headOf } from "../server/plans.ts";
import { keepReadings } from "../server/readings.ts";

const LOOK_EVERY_MS = 400;
const BEAT_EVERY_MS = 1000;

/**
 * Reads devices as they are asked for, at most `readers` at a time, until `stopped` says so. What hangs, lies or closes
 * is told, and stops nothing.
 */
export async function readAsAsked(
  queue: Queue,
  readers: number,
  stopped: AbortSignal,
  limits?: Limits,
): Promise<void> {
  const underWay = new Set<Promise<void>>();
  while (!stopped.aborted) {
    try {
      const job = underWay.size < readers ? await queue.takeReading() : null;
      if (!job) {
        await rest(LOOK_EVERY_MS);
        continue;
      }
      const reading = readOne(job.run, stopped, limits)
        .then(() => queue.readingDone(job.id))
        .catch(tellBroken)
        .finally(() => underWay.delete(reading));
      underWay.add(reading);
    } catch (error) {
      // The database may be away for a moment.
      tellBroken(error);
      await rest(LOOK_EVERY_MS * 5);
    }
  }
  await Promise.all(underWay);
}

/** Never more than an error's kind: its text could quote what was sent. */
function tellBroken(error: unknown) {
  log.error({ error: error instanceof Error ? error.name : "unknown" }, "a reading failed");
}

/** Once a minute, asks for the readings whose interval has gone by. */
export async function readWhenDue(queue: Queue, stopped: AbortSignal): Promise<void> {
  while (!stopped.aborted) {
    try {
      if (await queue.isDue()) {
        const count = await askDue(queue);
        if (count > 0) log.info({ readings: count }, "due by their schedule");
      }
    } catch (error) {
      log.error({ error: String(error) }, "what is due could not be looked up");
    }
    await rest(LOOK_EVERY_MS * 5);
  }
}

async function readOne(run: string, stopped: AbortSignal, limits: Limits | undefined): Promise<void> {
  const claimed = await claimRun(run);
  if (!claimed) return;
  const ending = new AbortController();
  const stop = () => ending.abort();
  stopped.addEventListener("abort", stop, { once: true });
  let told = "connecting";
  const beat = setInterval(async () => {
    if (!(await beatRun(run, told).catch(() => true))) ending.abort();
  }, BEAT_EVERY_MS);
  try {
    const secret = unseal(claimed.sealed, placeOf(claimed.plan, claimed.credentialName));
    const { prefixes } = allowedPrefixes();
    const reading = await readDevice(claimed.target, secret, {
      allowed: prefixes,
      limits,
      signal: ending.signal,
      tell: (text) => {
        told = text;
      },
    });
    await endRun(run, { state: "read", proof: reading.proof, ...(await keep(claimed, reading)) });
  } catch (error) {
    const why = error instanceof NotRead || error instanceof NoKey ? error.message : "it cannot be read";
    if (!(error instanceof NotRead) && !(error instanceof NoKey))
      log.error({ run, error: error instanceof Error ? error.name : "unknown" }, "a reading broke");
    await endRun(run, { state: "failed", told: stopped.aborted ? "the worker was stopped" : why });
  } finally {
    clearInterval(beat);
    stopped.removeEventListener("abort", stop);
  }
}

/** Keeps what was read, and compares it with the plan as it is now. */
async function keep(claimed: Claimed, { collector, lines }: Reading) {
  const { plan, target, askedBy } = claimed;
  const facts = { ...collector.facts, device: target.device };
  await keepReadings(plan, `${askedBy}, by ${target.way}`, [readingOf(facts)]);
  const doubtful = lines.filter(({ fate }) => fate === "doubtful" || fate === "not-understood").length;
  const name =
    collector.told !== null && collector.told !== target.device ? `; it calls itself ${collector.told}` : "";
  const told = `${facts.interfaces.length} interfaces, ${facts.routes.length} routes${doubtful ? `, ${doubtful} lines doubtful or not understood` : ""}${name}`;
  const model = await modelOf(plan);
  const differences = model ? driftOf(model, [facts]).differences.length : undefined;
  return { told, differences, lines: lines.length };
}

let held: { key: string; model: Scenario } | null = null;

/** The plan as it is now, compiled; the last one is kept. */
async function modelOf(plan: string): Promise<Scenario | null> {
  const head = await headOf(plan);
  if (!head) return null;
  const key = `${plan} ${head.revision}`;
  if (held?.key !== key) {
    const document = await documentOf(plan, head.revision);
    if (!document) return null;
    held = { key, model: NetworkModel.compile(document) };
  }
  return held.model;
}
