import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { makeClock, start, usedMs } from "./clock.ts";
import { type Answer, type Job, Lane, type Unanswered } from "./lanes.ts";

const folder = mkdtempSync(join(tmpdir(), "iron-fork-lanes-"));
afterAll(() => rmSync(folder, { recursive: true }));

/** A thread that does as the address says: burn processor time, wait, or fail; it starts the clock as the real one does. */
const THREAD = `
import { readFileSync, readlinkSync } from "node:fs";
const ticks = (n) => {
  const fields = readFileSync("/proc/self/task/" + n + "/stat", "utf8").split(") ").at(-1).split(" ");
  return Number(fields[11]) + Number(fields[12]);
};
export default async function answer({ job, clock }) {
  const thread = Number(readlinkSync("/proc/thread-self").split("/").at(-1));
  clock[1] = ticks(thread);
  Atomics.store(clock, 0, thread);
  const [what, ms] = new URL(job.url).pathname.slice(1).split("/");
  const end = performance.now() + Number(ms);
  if (what === "fail") throw new Error("no");
  if (what === "burn") while (performance.now() < end);
  else await new Promise((done) => setTimeout(done, Number(ms)));
  return { status: 200, headers: [], body: new Uint8Array(0) };
}`;

const job = (path: string): Job => ({
  url: `http://lane/${path}`,
  method: "GET",
  headers: [],
  body: null,
  nonce: "",
  requestId: "",
});

describe("a lane", () => {
  let lane: Lane;
  const ask = (
    path: string,
    limitMs: number,
    plan = "",
    person = "ann",
    left = new AbortController().signal,
  ): Promise<number | string> =>
    lane.run(job(path), plan, person, limitMs, left).then(
      ({ status }: Answer) => status,
      ({ why }: Unanswered) => why,
    );

  beforeAll(async () => {
    const file = join(folder, "thread.mjs");
    writeFileSync(file, THREAD);
    lane = new Lane(file, { threads: 2, warm: 2, niceness: 0, memoryMb: 64 });
    expect(await ask("wait/1", 20_000)).toBe(200);
  });
  afterAll(() => lane.close(1000));

  it("ends what takes more processor time than it may", async () => {
    expect(await ask("burn/20000", 300)).toBe("time");
  });

  it("lets a job wait for others longer than its limit, up to three times as long", async () => {
    expect(await ask("wait/700", 300)).toBe(200);
    expect(await ask("wait/20000", 300)).toBe("time");
  });

  it("goes on after a job that was ended or failed", async () => {
    expect(await ask("fail/0", 1000)).toBe("failed");
    expect(await ask("wait/1", 20_000)).toBe(200);
  });

  it("has one job of a plan at work at a time, while another plan's is answered", async () => {
    const order: string[] = [];
    const told = (name: string, plan: string, path: string, person = "ann") =>
      ask(path, 20_000, plan, person).then(() => order.push(name));
    await Promise.all([
      told("first of 1", "1", "wait/400"),
      told("second of 1", "1", "wait/1"),
      told("of 2", "2", "wait/1", "bob"),
    ]);
    expect(order).toEqual(["of 2", "first of 1", "second of 1"]);
  });

  it("takes no thread for what nobody waits for any more", async () => {
    const gone = new AbortController();
    const first = ask("wait/300", 20_000, "3");
    const second = ask("wait/1", 20_000, "3", "ann", gone.signal);
    expect(lane.load).toEqual({ waiting: 1, atWork: 1 });
    gone.abort();
    expect(await second).toBe("left");
    expect(await first).toBe(200);
    expect(lane.load).toEqual({ waiting: 0, atWork: 0 });
  });

  it("leaves a thread to others when one person sends much", async () => {
    const order: string[] = [];
    const tell = (who: string, path: string, person: string, post = false) =>
      lane
        .run(
          { ...job(path), method: post ? "POST" : "GET" },
          "",
          person,
          20_000,
          new AbortController().signal,
        )
        .then(() => order.push(who));
    // What changes something has one thread of two; the others pass by it.
    const posts = [1, 2, 3].map((n) => tell(`change ${n}`, "wait/150", "eve", true));
    await tell("page", "wait/1", "ann");
    expect(order[0]).toBe("page");
    await Promise.all(posts);
    // The same holds for pages after heavy use.
    await Promise.all([tell("long", "wait/900", "mal"), tell("long", "wait/900", "mal")]);
    order.length = 0;
    const more = [1, 2, 3].map(() => tell("more", "wait/200", "mal"));
    await tell("page", "wait/1", "ann");
    expect(order).toEqual(["page"]);
    await Promise.all(more);
  });

  it("refuses what one person has waiting beyond a bound, and takes what others send", async () => {
    const signal = new AbortController();
    const sent = Array.from({ length: 140 }, () => ask("wait/300", 20_000, "5", "eve", signal.signal));
    expect(await ask("wait/1", 20_000, "6", "ann")).toBe(200);
    signal.abort();
    const answers = await Promise.all(sent);
    expect(answers.filter((why) => why === "busy").length).toBeGreaterThan(30);
  });
});

it("a thread's clock counts what it computes and not what it waits for", async () => {
  const clock = makeClock();
  expect(usedMs(clock)).toBe(0);
  start(clock);
  await new Promise((done) => setTimeout(done, 300));
  const waited = usedMs(clock) ?? Number.NaN;
  const end = performance.now() + 20_000;
  while ((usedMs(clock) ?? 1e9) < waited + 200)
    if (performance.now() > end) throw new Error("nothing is counted");
  expect(waited).toBeLessThan(150);
});
