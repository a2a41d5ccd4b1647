import { spawn } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { createInterface } from "node:readline";
import { fileURLToPath } from "node:url";
import { type Rehearsal, rehearsalSchema } from "../lab/rehearsal/result.ts";
import { consume, withHeartbeat } from "../server/jobs/consume.ts";
import type { Queue } from "../server/jobs/queue.ts";
import { documentOf } from "../server/plans.ts";
import {
  claimRehearsal,
  endRehearsal,
  type RehearsalQuestion,
  rehearsalHeartbeat,
} from "../server/rehearsals.ts";

/** The lab's program in a separate process, so that the worker's load does not disturb its measurements. */
const program = fileURLToPath(new URL("lab.js", import.meta.url));

/** Rehearses outages on request, one at a time, until `stopped`. */
export async function rehearseAsAsked(queue: Queue, stopped: AbortSignal): Promise<void> {
  await consume(queue, "rehearsal", 1, stopped, async ({ id, rehearsal }) => {
    await rehearseOne(rehearsal, stopped);
    await queue.done("rehearsal", id);
  });
}

async function rehearseOne(id: string, stopped: AbortSignal): Promise<void> {
  const question = await claimRehearsal(id);
  if (!question) return;
  let activity = "Starting";
  const found = await withHeartbeat(
    () => rehearsalHeartbeat.beat(id, activity),
    stopped,
    (signal) =>
      inLab(question, signal, (sentence) => {
        activity = sentence;
      }),
  );
  await endRehearsal(id, stopped.aborted ? "the worker was stopped" : found);
}

/** Runs the lab's program on a revision; returns its result, or why it failed. */
async function inLab(
  { plan, revision, steps, down }: RehearsalQuestion,
  signal: AbortSignal,
  tell: (sentence: string) => void,
): Promise<Rehearsal | string> {
  const document = await documentOf(plan, revision);
  if (!document) return "the plan has no such revision";
  const folder = mkdtempSync(`${tmpdir()}/iron-fork-rehearsed-`);
  try {
    const file = `${folder}/plan.json`;
    writeFileSync(file, JSON.stringify({ ...document, outages: [{ id: "rehearsed", steps }] }));
    const words = ["run", file, "--outage", "rehearsed", "--json", ...down.flatMap((ref) => ["--down", ref])];
    const lab = spawn(process.execPath, [program, ...words], { stdio: ["ignore", "pipe", "pipe"] });
    // Told to end, it takes its network down first.
    signal.addEventListener("abort", () => lab.kill("SIGTERM"), { once: true });
    let output = "";
    let why = "the lab ended without a message";
    lab.stdout.on("data", (data) => {
      output += data;
    });
    createInterface({ input: lab.stderr }).on("line", (line) => {
      // What a program of the lab prints besides says nothing to people.
      if (line.startsWith("The lab failed: ") || /^[A-Z].*[.:]/.test(line)) why = line.slice(0, 300);
      if (line.endsWith(" …")) tell(line.slice(0, -2));
    });
    await new Promise((resolve) => lab.on("close", resolve));
    const found = rehearsalSchema.safeParse(jsonIn(output));
    return found.success ? found.data : why;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** A parsed JSON text; null if malformed, like the output of a killed program. */
function jsonIn(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
