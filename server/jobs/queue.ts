import type pg from "pg";
import PgBoss from "pg-boss";
import { log } from "../log.ts";
import { needDatabaseUrl } from "../pool.ts";

/** The queue's own tables lie beside ours, in a schema of their own. */
export const QUEUE_SCHEMA = "iron_fork_jobs";
/** Says each minute that it is time to look which readings are due. */
const DUE = "readings-due";

/** The kinds of jobs, each with the data that names its work. */
export interface JobData {
  piece: { readonly sweep: string; readonly number: number };
  reading: { readonly run: string };
  rehearsal: { readonly rehearsal: string };
}
export type JobKind = keyof JobData;
export type Job<K extends JobKind> = JobData[K] & { readonly id: string };

/**
 * Each kind's queue. Dead workers are detected by missing heartbeats, so that the queue needs no timeout of its own. A
 * piece is repeated until it is done; a reading or a rehearsal never is.
 */
const queues = {
  piece: { name: "sweep-piece", expireInSeconds: 24 * 3600, retryLimit: 1000, retryDelay: 0 },
  reading: { name: "read-device", expireInSeconds: 900, retryLimit: 0 },
  rehearsal: { name: "rehearse-outage", expireInSeconds: 3600, retryLimit: 0 },
} as const;

/** The jobs for workers, held in PostgreSQL: any number of processes put in and take out. */
export class Queue {
  private constructor(private readonly boss: PgBoss) {}

  /** `tend`: whether this process also keeps the queue's tables tidy, and says when the time for something has come. */
  static async open({ tend }: { tend: boolean }): Promise<Queue> {
    const boss = new PgBoss({
      connectionString: needDatabaseUrl(),
      schema: QUEUE_SCHEMA,
      supervise: tend,
      schedule: tend,
      max: 2,
    });
    boss.on("error", (error) => log.error({ error: String(error) }, "queue"));
    await boss.start();
    for (const { name } of Object.values(queues)) {
      if (!(await boss.getQueue(name))) await boss.createQueue(name, { name, policy: "standard" });
    }
    // One at a time: workers that are many look once a minute together.
    if (!(await boss.getQueue(DUE))) await boss.createQueue(DUE, { name: DUE, policy: "short" });
    if (tend) await boss.schedule(DUE, "* * * * *");
    return new Queue(boss);
  }

  /** Puts jobs in as part of a transaction: they are there when, and only when, it is committed. */
  async put<K extends JobKind>(
    client: pg.PoolClient,
    kind: K,
    jobs: readonly (JobData[K] & { readonly id?: string })[],
  ): Promise<void> {
    if (jobs.length === 0) return;
    await this.boss.insert(
      jobs.map(({ id, ...data }) => ({ ...(id ? { id } : {}), ...queues[kind], data })),
      { db: { executeSql: (text, values) => client.query(text, values) } },
    );
  }

  /** The next job of a kind, or null. */
  async take<K extends JobKind>(kind: K): Promise<Job<K> | null> {
    const [job] = (await this.boss.fetch<JobData[K]>(queues[kind].name, { batchSize: 1 })) ?? [];
    return job ? { ...job.data, id: job.id } : null;
  }

  async done(kind: JobKind, id: string): Promise<void> {
    await this.boss.complete(queues[kind].name, id);
  }

  /** Gives jobs back that were taken: the next worker has them. */
  async giveBack(kind: JobKind, ids: readonly string[]): Promise<void> {
    if (ids.length) await this.boss.fail(queues[kind].name, [...ids]);
  }

  async cancel(kind: JobKind, ids: readonly string[]): Promise<void> {
    if (ids.length) await this.boss.cancel(queues[kind].name, [...ids]);
  }

  /** Whether the minute has come to look which readings are due; the one who asks has then to look. */
  async isDue(): Promise<boolean> {
    const [job] = (await this.boss.fetch(DUE, { batchSize: 1 })) ?? [];
    if (job) await this.boss.complete(DUE, job.id);
    return job !== undefined;
  }

  async close(): Promise<void> {
    await this.boss.stop({ graceful: false, wait: false });
  }
}
