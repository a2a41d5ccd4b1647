import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { randomUUID } from "node:crypto";
import { once } from "node:events";
import { fileURLToPath } from "node:url";
import { afterAll, afterEach, beforeAll, describe, expect, it } from "vitest";
import { fleet } from "../bench/fleet.ts";
import { versions } from "../bin/source-version.mjs";
import type { Edit, Plan } from "../core/plan/index.ts";
import { type SweptFlow, sweepFlows } from "../core/reports/index.ts";
import { NetworkModel } from "../core/scenario/index.ts";
import { type AdministeredPlan, ownPlan, type ReadablePlan } from "../server/access/grants.ts";
import { cutSweep } from "../server/jobs/cut.ts";
import { closeQueue } from "../server/jobs/putting.ts";
import {
  askSweep,
  type SweepProgress,
  stopSweep,
  sweepProgress,
  sweepResult,
} from "../server/jobs/sweeps.ts";
import { migrate } from "../server/migrate.ts";
import { createPlan, deletePlan, saveEdit } from "../server/plans.ts";
import { database } from "../server/pool.ts";

const root = fileURLToPath(new URL("..", import.meta.url));
const bundle = "build/worker-under-test";
const plan: Plan = fleet({ devices: 120, links: 260, flows: 60, routes: 1500 });
/** The result of a single process, in its stored form. */
const alone = (): SweptFlow[] => {
  const { engine, gateways } = NetworkModel.compile(plan);
  return JSON.parse(JSON.stringify(sweepFlows(engine, gateways, 2)));
};

const workers: ChildProcess[] = [];

function startWorker(...options: string[]): ChildProcess {
  const worker = spawn("node", [`${bundle}/main.js`, "--lost-after", "2", ...options], {
    cwd: root,
    stdio: "ignore",
  });
  workers.push(worker);
  return worker;
}

async function end(worker: ChildProcess, signal: NodeJS.Signals) {
  if (worker.exitCode !== null || worker.signalCode !== null) return;
  const gone = once(worker, "exit");
  worker.kill(signal);
  await gone;
}

/** Looks until the sweep is as wished; fails by the test's own time limit. */
async function until(
  id: ReadablePlan,
  sweep: string,
  wished: (now: SweepProgress, busy: string[]) => boolean,
): Promise<SweepProgress> {
  for (;;) {
    const now = await sweepProgress(id, sweep);
    if (!now) throw new Error("the sweep is gone");
    const { rows } = await database().query<{ worker: string }>(
      "select worker from sweep_piece where sweep = $1 and worker is not null",
      [sweep],
    );
    if (wished(now, [...new Set(rows.map(({ worker }) => worker))])) return now;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

describe.skipIf(!process.env.DATABASE_URL)("sweeps by workers", () => {
  const plans: AdministeredPlan[] = [];
  const fresh = async () => {
    const id = await createPlan(plan, { session: randomUUID(), name: "Ann" }, "test");
    plans.push(id);
    return id;
  };
  const ann = randomUUID();
  const bob = randomUUID();
  const ask = async (
    id: ReadablePlan,
    more: { depth?: 1 | 2 | 3; down?: string[]; revision?: number; session?: string } = {},
  ) => {
    const question = {
      plan: id,
      revision: more.revision ?? 1,
      engine: JSON.parse(versions().__ENGINE_VERSION__),
      down: more.down ?? [],
      depth: more.depth ?? 2,
    };
    const { sweep, error } = await askSweep(question, more.session ?? ann);
    if (sweep === null) throw new Error(error);
    return sweep;
  };
  const done = (now: SweepProgress) => now.done === now.pieces;
  const piecesInHand = async (sweep: string) => {
    const { rows } = await database().query(
      "select number from sweep_piece where sweep = $1 and worker is not null and done_at is null",
      [sweep],
    );
    return rows.length;
  };
  /** Stops a worker while it has a piece: it cannot finish it. Between two pieces it goes on until it has one. */
  const holdWithPiece = async (worker: ChildProcess, sweep: string) => {
    for (;;) {
      // Looked at often: the whole sweep takes little longer than a look.
      while ((await piecesInHand(sweep)) !== 1) await new Promise((resolve) => setTimeout(resolve, 2));
      worker.kill("SIGSTOP");
      await new Promise((resolve) => setTimeout(resolve, 50));
      if ((await piecesInHand(sweep)) === 1) return;
      worker.kill("SIGCONT");
    }
  };

  beforeAll(async () => {
    execFileSync("node", ["bin/build-programs.mjs", bundle], { cwd: root });
    await migrate();
  });
  afterEach(async () => {
    for (const worker of workers.splice(0)) await end(worker, "SIGKILL");
  });
  afterAll(async () => {
    for (const id of plans) await deletePlan(id, "test");
    await closeQueue();
    await database().end();
  });

  it("two workers share a sweep, and find what one finds", async () => {
    const id = await fresh();
    const sweep = await ask(id);
    startWorker();
    startWorker();
    const seen = new Set<string>();
    const now = await until(id, sweep, (progress, busy) => {
      for (const worker of busy) seen.add(worker);
      return done(progress);
    });
    expect(seen.size).toBe(2);
    expect(now.pieces).toBe(cutSweep(plan.flows.length, 0, 2).length);
    expect(await sweepResult(id, sweep)).toEqual(alone());
    // The same question reuses its result; another revision or depth does not.
    expect(await ask(id)).toBe(sweep);
    expect(await ask(id, { depth: 1 })).not.toBe(sweep);
  }, 40_000);

  it("a worker killed in the middle of a piece loses nothing", async () => {
    const id = await fresh();
    const sweep = await ask(id);
    const first = startWorker();
    await holdWithPiece(first, sweep);
    await end(first, "SIGKILL");
    const left = await sweepProgress(id, sweep);
    expect(left?.done).toBeLessThan(left?.pieces ?? 0);
    expect(await piecesInHand(sweep)).toBe(1);
    startWorker();
    await until(id, sweep, done);
    expect(await sweepResult(id, sweep)).toEqual(alone());
  }, 40_000);

  it("a worker that is told to end gives its piece back", async () => {
    const id = await fresh();
    const sweep = await ask(id);
    const first = startWorker();
    await until(id, sweep, (now) => now.workers === 1 && !done(now));
    await end(first, "SIGTERM");
    expect(await piecesInHand(sweep)).toBe(0);
  }, 40_000);

  it("a stopped sweep rests, and goes on with what is left when asked for again", async () => {
    const id = await fresh();
    const sweep = await ask(id);
    const worker = startWorker();
    await holdWithPiece(worker, sweep);
    await ask(id, { session: bob });
    await stopSweep(id, sweep, ann);
    // Somebody else waits for it too, and a stranger has no say.
    expect((await sweepProgress(id, sweep))?.stopped).toBe(false);
    await stopSweep(id, sweep, randomUUID());
    expect((await sweepProgress(id, sweep))?.stopped).toBe(false);
    await stopSweep(id, sweep, bob);
    const { stopped, workers: busy } = (await sweepProgress(id, sweep)) as SweepProgress;
    expect({ stopped, busy }).toEqual({ stopped: true, busy: 0 });
    expect(await sweepResult(id, sweep)).toBeNull();
    worker.kill("SIGCONT");
    expect(await ask(id)).toBe(sweep);
    await until(id, sweep, done);
    expect(await sweepResult(id, sweep)).toEqual(alone());
  }, 40_000);

  it("a sweep of an earlier revision is given up when a later one is asked for", async () => {
    const id = await fresh();
    const old = await ask(id);
    const edit: Edit = {
      label: "Remove a flow",
      changes: [{ in: "plan", collection: "flows", before: plan.flows[0], after: null }],
    };
    expect(await saveEdit(id, 1, edit, { session: randomUUID(), name: "Ann" })).toMatchObject({
      revision: 2,
    });
    const late = await ask(id, { revision: 2 });
    expect((await sweepProgress(id, old))?.stopped).toBe(true);
    expect((await sweepProgress(id, late))?.stopped).toBe(false);
    const jobs = await database().query("select job from sweep_piece where sweep = $1 and job is not null", [
      old,
    ]);
    expect(jobs.rows).toEqual([]);
  });

  it("answers nothing about what is not there, or belongs to another plan", async () => {
    const id = await fresh();
    const sweep = await ask(id, { depth: 1 });
    expect(await sweepProgress(ownPlan("999999"), sweep)).toBeNull();
    expect(await sweepResult(ownPlan("999999"), sweep)).toBeNull();
    await expect(ask(id, { revision: 9 })).rejects.toThrow("no such revision");
  });

  it("takes no conditions that name nothing, and keeps what was found with nothing down", async () => {
    const id = await fresh();
    const kept = await ask(id, { depth: 1 });
    await expect(ask(id, { down: ["link:nonsense"] })).rejects.toThrow("no link nonsense");
    for (const link of plan.links.slice(0, 14)) await ask(id, { depth: 1, down: [`link:${link.id}`] });
    expect(await sweepProgress(id, kept)).not.toBeNull();
  });
});
