import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { ownDatabase } from "../../tests/support/own-database.ts";
import { demoPlan } from "../../tests/support/plans.ts";
import { migrate } from "../migrate.ts";
import { createPlan } from "../plans.ts";
import { database } from "../pool.ts";
import { keepReadings } from "../readings.ts";
import { Subscription } from "./notifications.ts";

let dropDatabase: () => Promise<void>;
beforeAll(async () => {
  dropDatabase = await ownDatabase();
  await migrate();
});
afterAll(async () => {
  await dropDatabase();
});

const notify = (payload: string) => database().query("select pg_notify('iron_fork', $1)", [payload]);
/** Milliseconds until a subscription reports, at most `withinMs`. */
const waited = async (news: Subscription, withinMs: number, signal?: AbortSignal) => {
  const from = performance.now();
  await news.next(withinMs, signal);
  return performance.now() - from;
};
/** Waits until the process listens. */
const listening = async () => {
  for (;;) {
    const { rows } = await database().query(
      "select pid from pg_stat_activity where query = 'listen iron_fork' and datname = current_database()",
    );
    if (rows.length > 0) return rows[0].pid as number;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
};

describe("notifications", () => {
  it("reach those who subscribed to their topic or item, once, also between two waits", async () => {
    const [all, one, other] = [
      new Subscription(["sweep"]),
      new Subscription(["sweep 7"]),
      new Subscription(["reading"]),
    ];
    await listening();
    await notify("sweep 7");
    expect(await waited(all, 20_000)).toBeLessThan(10_000);
    expect(await waited(one, 20_000)).toBeLessThan(10_000);
    expect(await waited(other, 50)).toBeGreaterThan(40);
    await notify("sweep 8");
    expect(await waited(all, 20_000)).toBeLessThan(10_000);
    expect(await waited(one, 50)).toBeGreaterThan(40);
    expect(await waited(all, 50)).toBeGreaterThan(40);
    for (const news of [all, one, other]) news.close();
  });

  it("come from the triggers when their transaction commits", async () => {
    const author = { session: crypto.randomUUID(), name: "Ann" };
    const plan = await createPlan(demoPlan("marrow-bay"), author, "test");
    const news = new Subscription(["change"]);
    await listening();
    const waiting = waited(news, 20_000);
    await keepReadings(plan, "Ann", [{ device: "a", facts: {}, prefixes: [] }]);
    expect(await waiting).toBeLessThan(10_000);
    news.close();
  });

  it("come again after the connection was lost, and a wait ends by its signal", async () => {
    const news = new Subscription(["delivery"]);
    const pid = await listening();
    await database().query("select pg_terminate_backend($1)", [pid]);
    let again = pid;
    while (again === pid) again = await listening();
    await notify("delivery");
    expect(await waited(news, 20_000)).toBeLessThan(10_000);
    const stop = new AbortController();
    const waiting = waited(news, 20_000, stop.signal);
    stop.abort();
    expect(await waiting).toBeLessThan(10_000);
    news.close();
  });
});
