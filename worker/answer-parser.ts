import { Piscina } from "piscina";
import { Cancelled, NotRead } from "../live/failure.ts";
import type { Answers, ReadAnswers } from "./parse.ts";

/** How long the answers of one device may take to be read and compared, in milliseconds. */
const PARSE_LIMIT_MS = 30_000;
const MEMORY_MB = 768;
const THREADS = 2;

/**
 * Reads the answers of devices in threads that end with their limits: whatever a device sends, the worker goes on with
 * all else.
 */
export class AnswerParser {
  private readonly pool: Piscina;

  constructor() {
    // From its sources, in tests, the thread reads TypeScript.
    const source = import.meta.url.endsWith(".ts");
    this.pool = new Piscina({
      filename: new URL(source ? "./parse.ts" : "./parse.js", import.meta.url).href,
      execArgv: source ? ["--import", "tsx"] : [],
      minThreads: 0,
      maxThreads: THREADS,
      idleTimeout: 60_000,
      concurrentTasksPerWorker: 1,
      env: { ...process.env, DATABASE_CONNECTIONS: "1" },
      resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB },
    });
    this.pool.on("error", () => {});
  }

  /** Throws `NotRead` if nothing is understood, at the limits of time and memory, and when `signal` ends it. */
  async parse(answers: Answers, signal: AbortSignal): Promise<Exclude<ReadAnswers, string>> {
    const limit = AbortSignal.timeout(PARSE_LIMIT_MS);
    let read: ReadAnswers;
    try {
      read = await this.pool.run(answers, { signal: AbortSignal.any([signal, limit]) });
    } catch (error) {
      if (signal.aborted) throw new Cancelled();
      if (limit.aborted)
        throw new NotRead(`parsing the answers takes longer than ${PARSE_LIMIT_MS / 1000} s`, false);
      if ((error as { code?: string }).code === "ERR_WORKER_OUT_OF_MEMORY")
        throw new NotRead("parsing the answers takes too much memory", false);
      throw error;
    }
    if (typeof read === "string") throw new NotRead(read, false);
    return read;
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }
}
