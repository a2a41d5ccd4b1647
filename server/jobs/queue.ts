import type pg from "pg";
import PgBoss from "pg-boss";
import { log } from "../log.ts";
import { needDatabaseUrl } from "../pool.ts";

/** The queue's own tables lie beside ours, in a schema of their own. */
const QUEUE_SCHEMA = "iron_fork_jobs";
const PIECES = "sweep-piece";

/** What a job says: which piece of which sweep. */
export interface PieceJob {
  readonly sweep: string;
  readonly number: number;
}

/** The queue of sweep pieces, held in PostgreSQL: any number of processes put in and take out. */
export class Queue {
  private constructor(private readonly boss: PgBoss) {}

  /** `tend`: whether this process also keeps the queue's tables tidy. */
  static async open({ tend }: { tend: boolean }): Promise<Queue> {
    const boss = new PgBoss({
      connectionString: needDatabaseUrl(),
      schema: QUEUE_SCHEMA,
      supervise: tend,
      schedule: false,
      max: 2,
    });
    boss.on("error", (error) => log.error({ error: String(error) }, "queue"));
    await boss.start();
    if (!(await boss.getQueue(PIECES))) await boss.createQueue(PIECES, { name: PIECES, policy: "standard" });
    return new Queue(boss);
  }

  /** Puts jobs in as part of a transaction: they are there when, and only when, it is committed. */
  async put(client: pg.PoolClient, jobs: readonly (PieceJob & { id: string })[]): Promise<void> {
    await this.boss.insert(
      jobs.map(({ id, sweep, number }) => ({
        id,
        name: PIECES,
        data: { sweep, number },
        // Workers that die are told by their silence; the queue itself need not lose patience.
        expireInSeconds: 24 * 3600,
        retryLimit: 1000,
        retryDelay: 0,
      })),
      { db: { executeSql: (text, values) => client.query(text, values) } },
    );
  }

  /** The next job, or null where there is none. */
  async take(): Promise<(PieceJob & { id: string }) | null> {
    const [job] = (await this.boss.fetch<PieceJob>(PIECES, { batchSize: 1 })) ?? [];
    return job ? { id: job.id, ...job.data } : null;
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
