/** Time as an agent's machines see it: milliseconds, and one call later. Tests bring their own. */
export interface Clock {
  now(): number;
  /** Calls once, `ms` from now; returns a function that cancels the call. */
  after(ms: number, call: () => void): () => void;
}

/** Milliseconds since 1970, with fractions: the same for every process of this machine. */
export const nowMs = () => performance.timeOrigin + performance.now();

export const machineClock: Clock = {
  now: nowMs,
  after(ms, call) {
    const timer = setTimeout(call, Math.max(0, ms));
    return () => clearTimeout(timer);
  },
};

/** One call that is due at a time, or none: it is put off, or taken back. */
export class Alarm {
  private cancel: (() => void) | null = null;
  private dueMs = 0;

  constructor(
    private readonly clock: Clock,
    private readonly call: () => void,
  ) {}

  /** Puts it off by so much, or brings it forward; nothing where it does not run. */
  move(ms: number) {
    if (this.cancel) this.set(this.dueMs + ms - this.clock.now());
  }

  get isSet(): boolean {
    return this.cancel !== null;
  }

  set(ms: number) {
    this.stop();
    this.dueMs = this.clock.now() + ms;
    this.cancel = this.clock.after(ms, () => {
      this.cancel = null;
      this.call();
    });
  }

  stop() {
    this.cancel?.();
    this.cancel = null;
  }
}

const LOOK_MS = 10;

/** How late timers fire on this machine: the maximum since the start, in milliseconds. */
export class Lateness {
  private most = 0;
  private due = nowMs() + LOOK_MS;
  private readonly timer: NodeJS.Timeout;

  constructor() {
    this.timer = setInterval(() => {
      const now = nowMs();
      this.most = Math.max(this.most, now - this.due);
      this.due = now + LOOK_MS;
    }, LOOK_MS);
  }

  /** Resets the maximum. */
  begin() {
    this.most = 0;
  }

  end(): number {
    clearInterval(this.timer);
    return this.most;
  }
}
