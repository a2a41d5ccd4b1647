import { NotRead } from "./failure.ts";

/** Limits per device: of the time and the size of answers. */
export interface Limits {
  /** Until the next word of an answer comes, in milliseconds. */
  readonly answerMs: number;
  /** For one attempt as a whole. */
  readonly attemptMs: number;
  /** Bytes of all answers together. */
  readonly bytes: number;
  /** Attempts in all; between them it is waited longer each time. */
  readonly attempts: number;
  /** Before the second attempt; twice that before the third, and so on. */
  readonly backoffMs: number;
}

export const usualLimits: Limits = {
  answerMs: 10_000,
  attemptMs: 120_000,
  bytes: 50 * 1024 * 1024,
  attempts: 3,
  backoffMs: 2_000,
};

/** Counts received bytes; throws above the limit. */
export class Meter {
  private taken = 0;

  constructor(private readonly most: number) {}

  take(bytes: number) {
    this.taken += bytes;
    if (this.taken > this.most)
      throw new NotRead(`the answer is too long: more than ${this.most} bytes`, false);
  }
}
