import { LRUCache } from "lru-cache";
import { database } from "../pool.ts";
import { type Answer, type Job, Lane, quickThreads, type Unanswered } from "./lanes.ts";

const sql = {
  /** plan id: bytes of its latest document as stored, compressed */
  documentSize: `
    select pg_column_size(r.document) as bytes
    from plan p join revision r on r.plan = p.id and r.number = p.revision where p.id = $1`,
} as const;

/** How long a page may take in the lane of quick ones; longer, and its plan goes by the other. Milliseconds. */
const QUICK_MS = 2500;
/** How long anything may take. */
export const MAX_MS = 30_000;
/** How long a new document may take to be read and kept. */
const DOCUMENT_MS = 120_000;
/** Bodies for a plan from this size on get the time limit of documents. */
const MUCH_BYTES = 256 * 1024;
/** A new plan that starts empty, or as a lesson, is as short as this. */
const SHORT_BYTES = 4096;
/**
 * What costs more than its size tells: archives are unpacked, texts of devices are read, and the order of a change is
 * proven. Paths without their `.data`.
 */
const HEAVY = /^(?:\/api\/v1)?\/plans\/\d+\/(?:archive|readings|facts|changes|exchange\/drift)$/;
/** How long a plan that was slow keeps to the lane of the slow ones. */
const SLOW_FOR_MS = 10 * 60_000;
/** Stored size of a document, compressed, from which its plan is taken for slow. */
const SLOW_BYTES = 60_000;

/** Whether a plan is slow, and until when that is believed. */
interface Slowness {
  readonly slow: boolean;
  readonly untilMs: number;
  /** The page that took too long; none if the plan's size alone is the reason. */
  readonly page?: string;
}

const pageOf = (job: Job) => new URL(job.url).pathname;

/**
 * Hands requests to threads. Plans whose pages take long go by a lane of their own, with the rest of the processors'
 * time, so that one of them never slows the pages of another plan.
 */
export class Dispatch {
  private readonly quick: Lane;
  private readonly slow: Lane;
  private readonly known = new LRUCache<string, Slowness>({ max: 10_000 });

  constructor(filename: string) {
    this.quick = new Lane(filename, {
      threads: quickThreads,
      warm: quickThreads,
      niceness: 0,
      memoryMb: 768,
    });
    this.slow = new Lane(filename, { threads: 2, warm: 1, niceness: 5, memoryMb: 1536 });
  }

  get load() {
    return { quick: this.quick.load, slow: this.slow.load };
  }

  /** `plan` is the plan's number, "" for pages of none; `person` is who sends the request. */
  async answer(job: Job, plan: string, person: string, left: AbortSignal): Promise<Answer> {
    const changes = job.method === "POST";
    const size = job.body?.length ?? 0;
    // A new document can be anything, and so can much that is posted.
    if (changes && size > (plan === "" ? SHORT_BYTES : MUCH_BYTES))
      return this.slow.run(job, plan, person, DOCUMENT_MS, left);
    if (changes && HEAVY.test(pageOf(job).replace(/\.data$/, "")))
      return this.runSlow(job, plan, person, left);
    if (plan !== "" && (await this.isSlow(plan))) return this.runSlow(job, plan, person, left);
    try {
      return await this.quick.run(job, plan, person, changes ? MAX_MS : QUICK_MS, left);
    } catch (error) {
      const { why } = error as Unanswered;
      if (changes || left.aborted || (why !== "time" && why !== "memory")) throw error;
      this.keep(plan, { slow: true, untilMs: Date.now() + SLOW_FOR_MS, page: pageOf(job) });
      return this.runSlow(job, plan, person, left);
    }
  }

  /** A page may have been slow because the machine was: answered soon here, it speaks for its plan no more. */
  private async runSlow(job: Job, plan: string, person: string, left: AbortSignal): Promise<Answer> {
    const startMs = Date.now();
    const answer = await this.slow.run(job, plan, person, MAX_MS, left);
    const soon = Date.now() - startMs < QUICK_MS / 2;
    if (soon && this.known.get(plan)?.page === pageOf(job)) this.known.delete(plan);
    return answer;
  }

  private async isSlow(plan: string): Promise<boolean> {
    const known = this.known.get(plan);
    if (known && known.untilMs > Date.now()) return known.slow;
    const found = await database()
      .query<{ bytes: number }>(sql.documentSize, [plan])
      .catch(() => null);
    const slow = (found?.rows[0]?.bytes ?? 0) > SLOW_BYTES;
    this.keep(plan, { slow, untilMs: Date.now() + 10_000 });
    return slow;
  }

  private keep(plan: string, known: Slowness) {
    this.known.set(plan, known);
  }

  async close(withinMs: number): Promise<void> {
    await Promise.all([this.quick.close(withinMs), this.slow.close(withinMs)]);
  }
}
