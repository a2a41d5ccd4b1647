import { describe, expect, it } from "vitest";
import { fuzzInside } from "./run.ts";

/** Told in the output, so that a failure can be repeated: npm run fuzz -- 1 "" SEED. */
const seed = Number(process.env.FUZZ_SEED ?? Math.floor(Math.random() * 2 ** 31));

describe("hostile documents, edits, captures, lists, and what devices say", () => {
  it(`crash nothing and take no longer than two seconds each, from seed ${seed}`, () => {
    const { failures } = fuzzInside(500, seed);
    expect(failures).toEqual([]);
  }, 240_000);
});
