import { expect, it } from "vitest";
import { Random } from "../support/random.ts";
import { anyGrowing, exponentOf } from "./growth.ts";

const seed = Number(process.env.SEED ?? Date.now() % 2 ** 31);
/** How long it is looked, in milliseconds; longer by hand. */
const BUDGET_MS = Number(process.env.GROWTH_MS ?? 4000);

it("whatever a text repeats, reading it takes time that grows with its length and not with its square", () => {
  const random = new Random(seed);
  const started = performance.now();
  const slow: unknown[] = [];
  let tried = 0;
  for (; performance.now() - started < BUDGET_MS; tried++) {
    const growing = anyGrowing(random);
    const exponent = exponentOf(growing);
    if (exponent > 1.6 && exponentOf(growing) > 1.6) slow.push({ ...growing, exponent });
  }
  expect(tried).toBeGreaterThan(20);
  expect(slow, `seed ${seed}`).toEqual([]);
}, 600_000);
