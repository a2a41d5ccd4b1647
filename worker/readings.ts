import { setTimeout as rest } from "node:timers/promises";
import { readingOf } from "../exchange/facts/index.ts";
import { KeyNotConfirmed, NotRead } from "../live/failure.ts";
import type { Limits } from "../live/limits.ts";
import { askDevice } from "../live/read.ts";
import { withoutSecrets } from "../live/redact.ts";
import { isAllowed, type Secret } from "../live/target.ts";
import { consume, withHeartbeat } from "../server/jobs/consume.ts";
import type { Queue } from "../server/jobs/queue.ts";
import { allowedPrefixes } from "../server/live/allowed.ts";
import { askDue, claimRun, endRun, offerProof, readingHeartbeat } from "../server/live/runs.ts";
import { NoKey, unseal } from "../server/live/seal.ts";
import { placeOf } from "../server/live/targets.ts";
import { log } from "../server/log.ts";
import { keepReadings } from "../server/readings.ts";
import { AnswerParser } from "./answer-parser.ts";

/** Time between checks whether polls are due, in milliseconds; the queue says so once a minute. */
const DUE_EVERY_MS = 2000;

/** Reads devices on request, at most `readers` at a time, until `stopped`. A device that hangs, misbehaves or
 * disconnects is reported, and does not affect others. */
export async function readAsAsked(
  queue: Queue,
  readers: number,
  stopped: AbortSignal,
  limits?: Limits,
): Promise<void> {
  const parser = new AnswerParser();
  await consume(queue, "reading", readers, stopped, async ({ id, run }) => {
    await readOne(run, stopped, parser, limits);
    await queue.done("reading", id);
  });
  await parser.close();
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
      log.error({ error: String(error) }, "due polls could not be loaded");
    }
    await rest(DUE_EVERY_MS);
  }
}

async function readOne(run: string, stopped: AbortSignal, parser: AnswerParser, limits: Limits | undefined) {
  const claimed = await claimRun(run);
  if (!claimed) return;
  let activity = "connecting";
  let secret: Secret | null = null;
  // Whatever goes to the database or a page holds nothing of the credential.
  const clean = (text: string) => (secret ? withoutSecrets(text, secret) : text);
  const beat = () => readingHeartbeat.beat(run, clean(activity));
  const { plan, target, prefixes } = claimed;
  try {
    await withHeartbeat(beat, stopped, async (signal) => {
      if (!isAllowed(target.address, prefixes))
        throw new NotRead("the credentials may not be sent to this address", false);
      secret = unseal(claimed.sealed, placeOf(plan, claimed.credentialName));
      const files = await askDevice(target, secret, {
        allowed: allowedPrefixes().prefixes,
        limits,
        signal,
        tell: (text) => {
          activity = text;
        },
      });
      activity = "parsing the answers";
      const read = await parser.parse({ files, device: target.device, plan }, signal);
      // A test leaves no readings.
      if (!claimed.trial)
        await keepReadings(plan, `${claimed.askedBy}, by ${target.way}`, [readingOf(read.facts)]);
      await endRun(run, { state: "read", ...read.end, told: clean(read.end.told) });
    });
  } catch (error) {
    if (error instanceof KeyNotConfirmed) await offerProof(run, error.proof);
    const why = error instanceof NotRead || error instanceof NoKey ? error.message : "polling failed";
    if (!(error instanceof NotRead) && !(error instanceof NoKey))
      log.error({ run, error: error instanceof Error ? error.name : "unknown" }, "a poll failed");
    await endRun(run, { state: "failed", told: stopped.aborted ? "the worker was stopped" : clean(why) });
  }
}
