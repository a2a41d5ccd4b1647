import { chmodSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, describe, expect, it } from "vitest";
import type { Plan } from "../../core/plan/index.ts";
import { demoPlan } from "../support/plans.ts";
import { Application, freePort } from "./application.ts";

// Needs PostgreSQL's programs and the right to start them, as bin/test has.
describe.skipIf(!process.env.DATABASE_URL)("the application survives", () => {
  const folder = mkdtempSync(join(tmpdir(), "iron-fork-survival-"));
  // The database runs as a separate user.
  chmodSync(folder, 0o755);
  let application: Application;
  afterAll(async () => {
    await application?.stop();
    rmSync(folder, { recursive: true, force: true });
  }, 60_000);

  /** Adds routes one after another until stopped; records those that the server confirmed. */
  function writer(url: string, plan: string, number: number) {
    const kept: string[] = [];
    let ending = false;
    const run = (async () => {
      for (let n = 0; !ending; n++) {
        const to = `10.${number}.${n >> 8}.${n & 255}/32`;
        const after = { to, via: "172.20.255.5" };
        const change = { in: "device", device: "skerry-edge", collection: "routes", before: null, after };
        const body = JSON.stringify({
          do: "edit",
          base: 1,
          edit: { label: `route ${to}`, changes: [change] },
        });
        const answer = await fetch(`${url}/plans/${plan}/edit.data`, {
          method: "POST",
          headers: { "Content-Type": "application/json", Origin: url },
          body,
          signal: AbortSignal.timeout(20_000),
        }).catch(() => null);
        const text = answer?.ok ? await answer.text().catch(() => "") : "";
        if (/"revision",\d+/.test(text) && text.includes(`route ${to}`)) kept.push(to);
        // At a kill, each writer has one edit in progress, independent of its rate.
        await new Promise((done) => setTimeout(done, 50));
      }
    })();
    return {
      kept,
      end: async () => {
        ending = true;
        await run;
      },
    };
  }

  it("a first start that is killed at any moment, and then starts", async () => {
    application = new Application(join(folder, "data"), await freePort());
    for (const afterMs of [1200, 2600]) {
      application.launch();
      await new Promise((done) => setTimeout(done, afterMs));
      application.killAll();
    }
    await application.start();
    expect((await fetch(`${application.url}/plans`)).status).toBe(200);
  }, 240_000);

  it("its database, its server and its worker being killed in turn: no edit that was acknowledged is lost, and it is there again by itself", async () => {
    const { url } = application;
    const form = new URLSearchParams({ do: "read", text: JSON.stringify(demoPlan("marrow-bay")) });
    const made = await fetch(`${url}/plans`, {
      method: "POST",
      body: form,
      headers: { Origin: url },
      redirect: "manual",
    });
    const plan = /\/plans\/(\d+)/.exec(made.headers.get("location") ?? "")?.[1] as string;
    const writers = [1, 2].map((number) => writer(url, plan, number));
    const rest = (ms: number) => new Promise((done) => setTimeout(done, ms));
    await rest(1500);
    for (const round of [0, 1]) {
      process.kill(application.databaseProcess(), "SIGKILL");
      // Meanwhile pages are answered, or refused with a message; never with an unexpected error.
      for (let n = 0; n < 8; n++) {
        const page = await fetch(`${url}/plans`, { headers: { Accept: "text/html" } });
        const text = await page.text();
        expect([200, 503]).toContain(page.status);
        if (page.status === 503) expect(text).toContain("The database is not responding");
        await rest(60);
      }
      await application.isReady(60_000);
      await rest(1000);
      application.kill("node build/serve/main.js");
      await rest(500);
      await application.isReady(60_000);
      await rest(1000);
      application.kill("node build/worker/main.js");
      await rest(round === 0 ? 3000 : 500);
    }
    for (const { end } of writers) await end();
    const kept = writers.flatMap((one) => one.kept);
    // How many it is depends on how busy the machine is; some were acknowledged in each round.
    expect(kept.length).toBeGreaterThan(4);
    const document = (await (await fetch(`${url}/plans/${plan}/document`)).json()) as Plan;
    const there = new Set(
      document.devices.find((d) => d.id === "skerry-edge")?.routes.map((route) => route.to),
    );
    expect(kept.filter((to) => !there.has(to))).toEqual([]);
    await rest(1000);
    expect(application.processes("node build/worker/main.js")).toHaveLength(1);
    // What happened stands in the log, under the numbers of the requests.
    const lines = readFileSync(join(folder, "data/log/iron-fork.log"), "utf8").trim().split("\n");
    const told = lines.map((line) => JSON.parse(line) as { msg: string; request?: string });
    expect(told.some(({ msg }) => /the database is away|connection broke/.test(msg))).toBe(true);
  }, 240_000);

  it("ends within five seconds, with edits under way either answered and kept or refused", async () => {
    const { url } = application;
    const form = new URLSearchParams({ do: "read", text: JSON.stringify(demoPlan("three-routers")) });
    const made = await fetch(`${url}/plans`, {
      method: "POST",
      body: form,
      headers: { Origin: url },
      redirect: "manual",
    });
    expect(made.status).toBe(302);
    const plan = /\/plans\/(\d+)/.exec(made.headers.get("location") ?? "")?.[1] as string;
    const one = writer(url, plan, 3);
    await new Promise((done) => setTimeout(done, 1000));
    const took = await application.stop();
    await one.end();
    expect(took).toBeLessThan(8000);
    await application.start();
    const document = (await (await fetch(`${url}/plans/${plan}/document`)).json()) as Plan;
    const there = new Set(document.devices.flatMap((d) => d.routes.map((route) => route.to)));
    expect(one.kept.filter((to) => !there.has(to))).toEqual([]);
  }, 120_000);
});
