import type pg from "pg";
import PgBoss from "pg-boss";
import { log } from "../log.ts";
import { needDatabaseUrl } from "../pool.ts";

/** The queue's own tables lie beside ours, in a schema of their own. */
export const QUEUE_SCHEMA = "iron_fork_jobs";
const PIECES = "sweep-piece";
const READINGS = "read-device";
const REHEARSALS = "rehearse-outage";
/** Says each minute that it is time to look which readings are due. */
const DUE = "readings-due";

/** What a job says: which piece of which sweep. */
export interface PieceJob {
  readonly sweep: string;
  readonly number: number;
}

/** The queue of sweep pieces, held in PostgreSQL: any number of processes put in and take out. */
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
    for (const name of [PIECES, READINGS, REHEARSALS]) {
      if (!(await boss.getQueue(name))) await boss.createQueue(name, { name, policy: "standard" });
    }
    // One at a time: workers that are many look once a minute together.
    if (!(await boss.getQueue(DUE))) await boss.createQueue(DUE, { name: DUE, policy: "short" });
    if (tend) await boss.schedule(DUE, "* * * * *");
    return new Queue(boss);
  }

  /** Puts jobs in as part of a transaction: they are there when, and only when, it is committed. */
  async put(client: pg.PoolClient, jobs: readonly (PieceJob & { id: string })[]): Promise<void> {
    await this.boss.insert(
      jobs.map(({ id, sweep, number }) => ({
        id,
        name: PIECES,
        data: { sweep, number },
        // Dead workers are detected by missing heartbeats; the queue itself does not need a timeout.
        expireInSeconds: 24 * 3600,
        retryLimit: 1000,
        retryDelay: 0,
      })),
      { db: { executeSql: (text, values) => client.query(text, values) } },
    );
  }

  /** The next job, or null. */
  async take(): Promise<(PieceJob & { id: string }) | null> {
    const [job] = (await this.boss.fetch<PieceJob>(PIECES, { batchSize: 1 })) ?? [];
    return job ? { id: job.id, ...job.data } : null;
  }

  /** Puts runs of readings in, as part of a transaction. */
  async putReadings(client: pg.PoolClient, runs: readonly string[]): Promise<void> {
    if (runs.length === 0) return;
    await this.boss.insert(
      // A run without a worker is detected by its missing heartbeat; it is never repeated automatically.
      runs.map((run) => ({ name: READINGS, data: { run }, expireInSeconds: 900, retryLimit: 0 })),
      { db: { executeSql: (text, values) => client.query(text, values) } },
    );
  }

  /** The next requested reading by its run's number; null without one. */
  async takeReading(): Promise<{ id: string; run: string } | null> {
    const [job] = (await this.boss.fetch<{ run: string }>(READINGS, { batchSize: 1 })) ?? [];
    return job ? { id: job.id, run: job.data.run } : null;
  }

  async readingDone(id: string): Promise<void> {
    await this.boss.complete(READINGS, id);
  }

  /** Puts a rehearsal in, as part of a transaction. */
  async putRehearsal(client: pg.PoolClient, rehearsal: string): Promise<void> {
    // A rehearsal waits until a worker takes it; it is never repeated automatically.
    const job = { name: REHEARSALS, data: { rehearsal }, expireInSeconds: 3600, retryLimit: 0 };
    await this.boss.insert([job], { db: { executeSql: (text, values) => client.query(text, values) } });
  }

  /** The next requested rehearsal; null without one. */
  async takeRehearsal(): Promise<{ id: string; rehearsal: string } | null> {
    const [job] = (await this.boss.fetch<{ rehearsal: string }>(REHEARSALS, { batchSize: 1 })) ?? [];
    return job ? { id: job.id, rehearsal: job.data.rehearsal } : null;
  }

  async rehearsalDone(id: string): Promise<void> {
    await this.boss.complete(REHEARSALS, id);
  }

  /** Whether the minute has come to look which readings are due; the one who asks has then to look. */
  async isDue(): Promise<boolean> {
    const [job] = (await this.boss.fetch(DUE, { batchSize: 1 })) ?? [];
    if (job) await this.boss.complete(DUE, job.id);
    return job !== undefined;
  }

  async done(id: string): Promise<void> {
    await this.boss.complete(PIECES, id);
  }

  /** Gives jobs back that were taken: the next worker has them. */
  async giveBack(ids: readonly string[]): Promise<void> {
    if (ids.length) await this.boss.fail(PIECES, [...ids]);
  }

  async cancel(ids: readonly string[]): Promise<void> {
    if (ids.length) await this.boss.cancel(PIECES, [...ids]);
  }

  async close(): Promise<void> {
    await this.boss.stop({ graceful: false, wait: false });
  }
}
