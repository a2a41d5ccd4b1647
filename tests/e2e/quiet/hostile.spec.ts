import { expect, test } from "@playwright/test";
import { fuzzRequests, longestStall } from "../../fuzz/run.ts";
import { freshPlan } from "../plan.ts";

// Timed tests run alone, after all others.

test("hostile requests bring no 500, nothing slow, and no stall of the server", async ({ page, baseURL }) => {
  test.setTimeout(180_000);
  const base = baseURL as string;
  const plan = (await freshPlan(page)).split("/").at(-1) as string;
  const seed = Number(process.env.FUZZ_SEED ?? Math.floor(Math.random() * 2 ** 31));
  test.info().annotations.push({ type: "seed", description: String(seed) });
  await longestStall(base);
  const { failures } = await fuzzRequests(base, plan, 400, seed);
  expect(failures, `seed ${seed}`).toEqual([]);
  expect(await longestStall(base)).toBeLessThan(200);
});
