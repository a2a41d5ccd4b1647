import type { Clock } from "../../lab/agent/clock.ts";

/** Time that a test moves: calls come in the order in which they are due. */
export class FakeClock implements Clock {
  private time = 0;
  private calls: { dueMs: number; call: () => void }[] = [];

  now(): number {
    return this.time;
  }

  after(ms: number, call: () => void): () => void {
    const entry = { dueMs: this.time + Math.max(0, ms), call };
    this.calls.push(entry);
    return () => {
      this.calls = this.calls.filter((one) => one !== entry);
    };
  }

  /** Advances the time by milliseconds. */
  run(ms: number) {
    const end = this.time + ms;
    for (;;) {
      const next = this.calls.reduce<{ dueMs: number; call: () => void } | null>(
        (first, one) => (one.dueMs <= end && (!first || one.dueMs < first.dueMs) ? one : first),
        null,
      );
      if (!next) break;
      this.calls = this.calls.filter((one) => one !== next);
      this.time = next.dueMs;
      next.call();
    }
    this.time = end;
  }
}
