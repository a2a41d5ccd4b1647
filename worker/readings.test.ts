import { readFileSync, rmSync } from "node:fs";
import { type AddressInfo, createServer, type Server } from "node:net";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import { NetworkModel } from "../core/scenario/index.ts";
import { ownPlan } from "../server/access/grants.ts";
import { closeQueue } from "../server/jobs/putting.ts";
import { Queue } from "../server/jobs/queue.ts";
import { askDue, askReadings, cancelRun } from "../server/live/runs.ts";
import { NoKey, seal, unseal } from "../server/live/seal.ts";
import {
  confirmProof,
  credentialsOf,
  forgetCredential,
  keepCredential,
  keepTarget,
  type TargetRow,
  targetFaults,
  targetsOf,
} from "../server/live/targets.ts";
import { migrate } from "../server/migrate.ts";
import { createPlan, deletePlan } from "../server/plans.ts";
import { database } from "../server/pool.ts";
import { newestReadings } from "../server/readings.ts";
import { datastoreOf } from "../stand-ins/datastore.ts";
import { restconfServer } from "../stand-ins/restconf.ts";
import { demoPlan } from "../tests/support/plans.ts";
import { until } from "../tests/support/until.ts";
import { AnswerParser } from "./answer-parser.ts";
import { readAsAsked } from "./readings.ts";

const PASSWORD = "marlin-that-nobody-sees";

const logFile = vi.hoisted(() => {
  const file = `/tmp/iron-fork-readings-${process.pid}.log`;
  process.env.IRON_FORK_LOG = file;
  process.env.LOG_LEVEL = "trace";
  process.env.IRON_FORK_READS = "127.0.0.0/8";
  process.env.IRON_FORK_KEY = "ab".repeat(32);
  return file;
});

const secret = { way: "restconf" as const, user: "reader", password: PASSWORD };

describe("a credential that is kept", () => {
  it("comes out as it went in, only with its key, and only where it was kept", () => {
    const sealed = seal(secret, "7 web");
    expect(sealed.toString("latin1")).not.toContain(PASSWORD);
    expect(unseal(sealed, "7 web")).toEqual(secret);
    expect(() => unseal(sealed, "8 web")).toThrow(NoKey);
    const changed = Buffer.from(sealed);
    changed[changed.length - 1] ^= 1;
    expect(() => unseal(changed, "7 web")).toThrow(NoKey);
    vi.stubEnv("IRON_FORK_KEY", "cd".repeat(32));
    expect(() => unseal(sealed, "7 web")).toThrow(/another key/);
    vi.stubEnv("IRON_FORK_KEY", "no key");
    expect(() => seal(secret, "7 web")).toThrow(/64 hexadecimal digits/);
    vi.unstubAllEnvs();
  });

  it("is never the same twice, for the vector is fresh", () => {
    expect(seal(secret, "7 web").equals(seal(secret, "7 web"))).toBe(false);
  });
});

describe.skipIf(!process.env.DATABASE_URL)("answers that a device sends to do harm", () => {
  const parser = new AnswerParser();
  afterAll(() => parser.close());
  // Tens of megabytes that are read for seconds.
  const text = `{"ietf-interfaces:interfaces":{"interface":[${'{"name":"a","x":[{"b":1}]},'.repeat(800_000)}{}]}}`;
  const answers = { files: [{ name: "liar/data.json", text }], device: "liar", plan: ownPlan("1") };

  it("are read beside the worker, and no more once the reading is cancelled", async () => {
    const started = performance.now();
    let beats = 0;
    const beat = setInterval(() => beats++, 20);
    await expect(parser.parse(answers, AbortSignal.timeout(700))).rejects.toThrow("cancelled");
    clearInterval(beat);
    expect(performance.now() - started).toBeLessThan(5000);
    expect(beats).toBeGreaterThan(10);
    const empty = { ...answers, files: [{ name: "liar/data.json", text: "{}" }] };
    await expect(parser.parse(empty, new AbortController().signal)).rejects.toThrow(
      "the answer was not understood",
    );
  }, 40_000);
});

describe.skipIf(!process.env.DATABASE_URL)("readings by the worker", () => {
  const stopping = new AbortController();
  const servers: { close(): unknown }[] = [];
  let queue: Queue;
  let reading = Promise.resolve();
  let plan = ownPlan("");
  const demo = NetworkModel.compile(demoPlan("marrow-bay"));

  const listening = async (server: Server): Promise<number> => {
    servers.push(server);
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    return (server.address() as AddressInfo).port;
  };

  beforeAll(async () => {
    await migrate();
    plan = await createPlan(demo.plan, { session: crypto.randomUUID(), name: "Ann" }, "test");
    queue = await Queue.open({ tend: true });
    const limits = { answerMs: 400, attemptMs: 2000, bytes: 1_000_000, attempts: 1, backoffMs: 10 };
    reading = readAsAsked(queue, 3, stopping.signal, limits);
    expect(await keepCredential(plan, "web", secret, ["127.0.0.0/8"], "Ann")).toEqual({});
  });

  afterAll(async () => {
    stopping.abort();
    await reading;
    for (const server of servers) server.close();
    await deletePlan(plan, "test");
    await queue.close();
    await closeQueue();
    await database().end();
    rmSync(logFile, { force: true });
  });

  const target = async (device: string) =>
    (await targetsOf(plan)).find((one) => one.device === device) as TargetRow;
  const add = async (device: string, port: number, everyMinutes: number | null = null) => {
    const [{ id }] = await credentialsOf(plan);
    const fields = {
      device,
      address: "127.0.0.1",
      port,
      way: "restconf" as const,
      credential: id,
      everyMinutes,
    };
    expect(await targetFaults(plan, fields)).toEqual({});
    await keepTarget(plan, fields);
    return (await target(device)).id;
  };
  const ended = (device: string) =>
    until(
      async () => !["waiting", "reading"].includes((await target(device)).run?.state ?? "waiting"),
      20_000,
    );

  it("keeps what a device says, while one hangs, one closes and one sends garbage", async () => {
    const good = await restconfServer(() => datastoreOf(demo, "skerry-edge"), {
      user: secret.user,
      password: PASSWORD,
    });
    await add("skerry-edge", await listening(good));
    await add("hangs", await listening(createServer(() => {})));
    await add("closes", await listening(createServer((socket) => socket.destroy())));
    await add("lies", await listening(createServer((socket) => socket.on("error", () => {}).end("garbage"))));
    expect(await askReadings(plan, null, "Ann")).toBe(4);
    // A reading in progress is not requested again.
    expect(await askReadings(plan, null, "Ann")).toBeLessThan(4);
    for (const device of ["skerry-edge", "hangs", "closes", "lies"]) await ended(device);
    // At first contact a device presents its key, and gets no password before the key is confirmed.
    const first = await target("skerry-edge");
    expect(first.run).toMatchObject({ state: "failed", told: expect.stringMatching(/key is not confirmed/) });
    expect(await confirmProof(plan, first.id, "another key")).toBe(false);
    expect(await confirmProof(plan, first.id, first.offered ?? "")).toBe(true);
    expect(await askReadings(plan, [first.id], "Ann")).toBe(1);
    await ended("skerry-edge");
    const { run, known } = await target("skerry-edge");
    expect({ state: run?.state, differences: run?.differences, known }).toEqual({
      state: "read",
      differences: 0,
      known: true,
    });
    const [kept] = await newestReadings<{ routes: unknown[] }>(plan, null);
    expect(kept.device).toBe("skerry-edge");
    expect(kept.author).toBe("Ann, by restconf");
    for (const device of ["hangs", "closes", "lies"]) {
      const { run: failed } = await target(device);
      expect(failed?.state).toBe("failed");
      expect(failed?.told).toMatch(/^the (device|connection|answer) |^no TLS/);
    }
  }, 40_000);

  it("is due by its interval, once; a cancelled one is left alone", async () => {
    await add("slow", await listening(createServer(() => {})), 60);
    expect((await target("slow")).stale).toBe(true);
    expect(await askDue(queue)).toBe(1);
    expect(await askDue(queue)).toBe(0);
    await until(async () => (await target("slow")).run?.state === "reading");
    await cancelRun(plan, (await target("slow")).run?.id ?? "");
    expect((await target("slow")).run?.state).toBe("cancelled");
    expect(await askReadings(plan, [(await target("slow")).id], "Ann")).toBe(1);
    await ended("slow");
    expect((await target("slow")).run?.state).toBe("failed");
  }, 40_000);

  it("refuses addresses that are not allowed, credentials of another way, and to forget one that is used", async () => {
    const [{ id }] = await credentialsOf(plan);
    const fields = {
      device: "x",
      address: "10.0.0.1",
      port: 443,
      way: "restconf" as const,
      credential: id,
      everyMinutes: null,
    };
    expect(Object.keys(await targetFaults(plan, fields))).toEqual(["address"]);
    expect(Object.keys(await targetFaults(plan, { ...fields, address: "127.0.0.1", way: "ssh" }))).toEqual([
      "credential",
    ]);
    expect(Object.keys(await forgetCredential(plan, id))).toEqual(["credential"]);
    expect(
      Object.keys(
        await keepCredential(plan, "web", { way: "snmp-v2c", community: "c" }, ["127.0.0.0/8"], "Ann"),
      ),
    ).toEqual(["name"]);
  });

  it("leaves nothing of a credential in the log or in what the database says", async () => {
    const log = readFileSync(logFile, { encoding: "utf8", flag: "a+" });
    const { rows } = await database().query("select * from credential");
    const runs = await database().query("select * from reading_run");
    for (const form of [
      PASSWORD,
      Buffer.from(PASSWORD).toString("base64"),
      Buffer.from(PASSWORD).toString("hex"),
    ])
      for (const text of [log, JSON.stringify(runs.rows), JSON.stringify(rows)])
        expect(text).not.toContain(form);
  });
});
