import { availableParallelism } from "node:os";
import { LRUCache } from "lru-cache";
import { Piscina } from "piscina";
import { type Clock, makeClock, usedMs } from "./clock.ts";

/** A request as passed to a thread, and its answer. */
export interface Job {
  readonly url: string;
  readonly method: string;
  readonly headers: readonly [string, string][];
  readonly body: Uint8Array | null;
  readonly nonce: string;
  readonly requestId: string;
}

/** A job with the clock that its thread starts. */
export interface Timed {
  readonly job: Job;
  readonly clock: Clock;
}

export interface Answer {
  readonly status: number;
  readonly headers: readonly [string, string][];
  readonly body: Uint8Array;
}

/** Why there is no answer: the time or memory limit, a disconnected client, or shutdown. */
export class Unanswered extends Error {
  constructor(readonly why: "time" | "memory" | "left" | "busy" | "failed") {
    super(why);
  }
}

interface Waiting {
  readonly job: Job;
  readonly plan: string;
  readonly person: string;
  readonly limitMs: number;
  readonly left: AbortSignal;
  readonly resolve: (answer: Answer) => void;
  readonly reject: (why: Unanswered) => void;
}

/** On a busy machine, the wall-clock limit is this multiple of the processor-time limit. */
const STRETCH = 3;
/** How long a thread may wait for what another transaction holds; longer, and the request is asked to come again. */
const LOCK_MS = 2000;
/** How long an abandoned request may still run: ending it costs its thread. */
const GRACE_MS = 1500;
/** Requests that may wait in a lane, of all people and of one. */
const MAX_WAITING = 400;
const MAX_WAITING_OF_ONE = 100;
/** A person who has used so much of a lane lately leaves its last thread to others. */
const MUCH_MS = 1500;
/** After so long, half of what a person has used counts no more. */
const HALF_LIFE_MS = 10_000;
/** Whoever uses a lane alone for so long may have all of it. */
const ALONE_AFTER_MS = 60_000;
/** People whose use is remembered. */
const MAX_PEOPLE = 5000;

/**
 * Threads that answer requests, each with limits of time and memory. A plan has at most one request at work in a lane,
 * so that no plan takes all of its threads: the others of the same plan wait for it. A person who changes something, or
 * has used much of the lane lately, never has all of its threads either.
 */
export class Lane {
  private readonly pool: Piscina;
  private readonly waiting: Waiting[] = [];
  private readonly plansAtWork = new Set<string>();
  private readonly peopleAtWork = new Map<string, number>();
  private readonly used = new LRUCache<string, { ms: number; atMs: number }>({ max: MAX_PEOPLE });
  private atWork = 0;
  private readonly idle: (() => void)[] = [];

  constructor(
    filename: string,
    private readonly settings: { threads: number; warm: number; niceness: number; memoryMb: number },
  ) {
    this.pool = new Piscina({
      filename,
      minThreads: settings.warm,
      maxThreads: settings.threads,
      idleTimeout: 60_000,
      concurrentTasksPerWorker: 1,
      env: {
        ...process.env,
        DATABASE_CONNECTIONS: "3",
        DATABASE_LOCK_MS: String(LOCK_MS),
        THREAD_NICENESS: String(settings.niceness),
      },
      resourceLimits: { maxOldGenerationSizeMb: settings.memoryMb },
    });
    this.pool.on("error", () => {});
  }

  get load(): { waiting: number; atWork: number } {
    return { waiting: this.waiting.length, atWork: this.atWork };
  }

  /** `plan`: the request's plan; "" without one. `person`: its sender. `limitMs` is processor time if available, so
   * that other load does not count. `left` signals that the client disconnected. */
  run(job: Job, plan: string, person: string, limitMs: number, left: AbortSignal): Promise<Answer> {
    return new Promise((resolve, reject) => {
      const own = this.waiting.filter((entry) => entry.person === person).length;
      if (this.waiting.length >= MAX_WAITING || own >= MAX_WAITING_OF_ONE)
        return reject(new Unanswered("busy"));
      const entry = { job, plan, person, limitMs, left, resolve, reject };
      this.waiting.push(entry);
      left.addEventListener("abort", () => {
        const at = this.waiting.indexOf(entry);
        if (at < 0) return;
        this.waiting.splice(at, 1);
        reject(new Unanswered("left"));
      });
      this.next();
    });
  }

  private next() {
    while (this.atWork < this.settings.threads) {
      const at = this.nextAt();
      if (at < 0) return;
      const [entry] = this.waiting.splice(at, 1);
      void this.work(entry);
    }
  }

  /** The first that may go: of those who have the fewest at work. */
  private nextAt(): number {
    let best = -1;
    let fewest = Number.POSITIVE_INFINITY;
    for (const [at, { job, plan, person }] of this.waiting.entries()) {
      if (plan !== "" && this.plansAtWork.has(plan)) continue;
      const own = this.peopleAtWork.get(person) ?? 0;
      const most = Math.max(1, this.settings.threads - 1);
      const much = job.method === "POST" || this.usedLately(person) > MUCH_MS;
      if (own >= most && much && this.isSharedWithOthers(person)) continue;
      if (own < fewest) [best, fewest] = [at, own];
    }
    return best;
  }

  /** Whether another person uses the lane, or did recently. */
  private isSharedWithOthers(person: string): boolean {
    if (this.waiting.some((entry) => entry.person !== person)) return true;
    // The latest come first.
    for (const [other, { atMs }] of this.used.entries()) {
      if (performance.now() - atMs > ALONE_AFTER_MS) return false;
      if (other !== person) return true;
    }
    return false;
  }

  /** Milliseconds of this lane's threads that a person has used lately. */
  private usedLately(person: string): number {
    const used = this.used.get(person);
    return used ? used.ms * 0.5 ** ((performance.now() - used.atMs) / HALF_LIFE_MS) : 0;
  }

  private async work({ job, plan, person, limitMs, left, resolve, reject }: Waiting) {
    const startMs = performance.now();
    this.atWork++;
    this.peopleAtWork.set(person, (this.peopleAtWork.get(person) ?? 0) + 1);
    if (plan !== "") this.plansAtWork.add(plan);
    const ending = new AbortController();
    let why: Unanswered["why"] = "failed";
    const end = (reason: Unanswered["why"]) => {
      why = reason;
      ending.abort();
    };
    const clock = makeClock();
    const limit = new Limit(clock, limitMs, () => end("time"));
    let grace: NodeJS.Timeout | undefined;
    const onLeft = () => {
      // What changes something is finished all the same.
      if (job.method !== "POST") grace = setTimeout(() => end("left"), GRACE_MS);
    };
    left.addEventListener("abort", onLeft);
    try {
      resolve(await this.pool.run({ job, clock } satisfies Timed, { signal: ending.signal }));
    } catch (error) {
      const { code } = error as { code?: string };
      reject(new Unanswered(code === "ERR_WORKER_OUT_OF_MEMORY" ? "memory" : why));
    } finally {
      limit.clear();
      clearTimeout(grace);
      left.removeEventListener("abort", onLeft);
      this.atWork--;
      this.plansAtWork.delete(plan);
      const own = (this.peopleAtWork.get(person) ?? 1) - 1;
      if (own > 0) this.peopleAtWork.set(person, own);
      else this.peopleAtWork.delete(person);
      const nowMs = performance.now();
      this.used.set(person, { ms: this.usedLately(person) + nowMs - startMs, atMs: nowMs });
      this.next();
      if (this.atWork === 0 && this.waiting.length === 0) for (const tell of this.idle.splice(0)) tell();
    }
  }

  /** Ends the threads once current jobs are answered, at the latest after `withinMs`. */
  async close(withinMs: number): Promise<void> {
    for (const entry of this.waiting.splice(0)) entry.reject(new Unanswered("busy"));
    if (this.atWork > 0) {
      await Promise.race([
        new Promise<void>((done) => this.idle.push(done)),
        new Promise<void>((done) => setTimeout(done, withinMs).unref()),
      ]);
    }
    await this.pool.destroy();
  }
}

/** Ends a job at its processor-time limit, and at a multiple of it by wall clock. */
class Limit {
  private timer: NodeJS.Timeout;
  private readonly beganMs = performance.now();

  constructor(
    private readonly clock: Clock,
    private readonly limitMs: number,
    private readonly onEnd: () => void,
  ) {
    this.timer = setTimeout(() => this.look(), limitMs);
  }

  private look() {
    const { limitMs } = this;
    const passedMs = performance.now() - this.beganMs;
    const leftMs = limitMs - (usedMs(this.clock) ?? limitMs);
    if (leftMs <= 0 || passedMs >= limitMs * STRETCH) this.onEnd();
    else
      this.timer = setTimeout(
        () => this.look(),
        Math.min(Math.max(leftMs, 20), limitMs * STRETCH - passedMs),
      );
  }

  clear() {
    clearTimeout(this.timer);
  }
}

/** Threads for quick requests: one per processor, at most four. */
export const quickThreads = Math.min(4, Math.max(2, availableParallelism()));
