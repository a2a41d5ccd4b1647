import type { Network, State, WatchRecord } from "../network/index.ts";
import type { Probe } from "../plan/index.ts";

/** When a probe sends: at `sentMs`, and every interval before and after it. */
export interface ProbePhase {
  readonly sentMs: number;
  /** Whether its events come just before everything else of the same moment, or just after it. */
  readonly isJustBefore: boolean;
}

/** Phases by the number of the watch. */
export type ProbePhases = ReadonlyMap<number, ProbePhase>;

/** What one probe has sent and counted. */
interface Clock {
  readonly phase: ProbePhase;
  /** The last moment of sending that was taken. */
  lastSentMs: number;
  /** Probes that got no answer, by the moment at which they are given up, ascending. */
  readonly givenUpAtMs: number[];
  /** Consecutive results that contradict the watch's state. */
  row: number;
}

/** A moment, and whether it comes just before or just after everything else of that moment. */
export interface ProbeMoment {
  readonly atMs: number;
  readonly isJustBefore: boolean;
}

/** Tolerance for comparing sums of intervals, in intervals or milliseconds. */
const EPSILON_MS = 1e-6;

/**
 * The probes of a simulation (rule 9.3). Each sends every interval, independently of earlier results. The result is decided when
 * the probe is sent. Results count in the order of sending: a success at once, a silence after the timeout, unless a later probe
 * was answered meanwhile. Clocks run only while a result could change a watch's state.
 */
export class ProbeClocks {
  private readonly clocks = new Map<number, Clock>();
  /** The present reading of each probe, by the number of its watch. */
  private reads: Uint8Array = new Uint8Array(0);
  /** When restarted devices came up: their clocks start then. */
  private readonly roseAtMs = new Map<number, number>();
  private deviceAlive: Uint8Array;
  private readonly network: Network;
  private readonly probes: readonly WatchRecord[];

  /** From a settled state. `phaseOf` gives the phase of a clock that is needed for the first time. */
  constructor(
    settled: State,
    private readonly believed: Uint8Array,
    private readonly phaseOf: (watch: number, probe: Probe) => ProbePhase,
  ) {
    this.network = settled.network;
    this.probes = this.network.watches.filter(({ watch }) => watch.kind === "probe");
    this.deviceAlive = settled.deviceAlive;
  }

  /**
   * Sets the present readings. In `read` probes keep their states, since they change by their own clocks; those that have failed, or
   * whose devices have, go down at once.
   */
  look(state: State, read: Uint8Array, failed: ReadonlySet<number>, nowMs: number) {
    this.reads = read.slice();
    for (const { watch, index, device } of this.probes) {
      const alive = state.deviceAlive[device];
      if (alive && !this.deviceAlive[device]) {
        this.roseAtMs.set(index, nowMs);
        this.clocks.delete(index);
      }
      const isUp = this.believed[index];
      const isOut = !alive || failed.has(index);
      if (isOut) this.forget(index);
      else if (read[index] !== isUp) this.wake(index, watch as Probe, nowMs);
      read[index] = isOut ? 0 : isUp;
    }
    this.deviceAlive = state.deviceAlive;
  }

  private forget(index: number) {
    const clock = this.clocks.get(index);
    if (!clock) return;
    clock.row = 0;
    clock.givenUpAtMs.length = 0;
  }

  private wake(index: number, probe: Probe, nowMs: number) {
    if (this.clocks.has(index)) return;
    const rose = this.roseAtMs.get(index);
    const phase = rose === undefined ? this.phaseOf(index, probe) : { sentMs: rose, isJustBefore: false };
    // Probes sent up to now changed nothing.
    const lastSentMs = lastBefore(phase, probe.intervalMs, nowMs);
    this.clocks.set(index, { phase, lastSentMs, givenUpAtMs: [], row: 0 });
  }

  /** The next moment at which a probe is sent or given up, after `now`; null where all are at rest. */
  next(nowMs: number): ProbeMoment | null {
    let next: ProbeMoment | null = null;
    for (const [index, clock] of this.clocks) {
      const atMs = this.nextOf(index, clock, nowMs);
      if (atMs === null) continue;
      const { isJustBefore } = clock.phase;
      if (!next || atMs < next.atMs || (atMs === next.atMs && isJustBefore && !next.isJustBefore))
        next = { atMs, isJustBefore };
    }
    return next;
  }

  private nextOf(index: number, clock: Clock, nowMs: number): number | null {
    const [givenUpAtMs] = clock.givenUpAtMs;
    const sendsAtMs = this.isAtRest(index, clock) ? null : this.nextSending(index, clock, nowMs);
    if (givenUpAtMs === undefined) return sendsAtMs;
    return sendsAtMs === null ? givenUpAtMs : Math.min(givenUpAtMs, sendsAtMs);
  }

  private isAtRest(index: number, clock: Clock): boolean {
    if (!this.deviceAlive[this.network.watches[index].device]) return true;
    if (this.reads[index] !== this.believed[index] || clock.row > 0) return false;
    // Silences change nothing while the watch is down.
    return !this.believed[index] || clock.givenUpAtMs.length === 0;
  }

  private nextSending(index: number, clock: Clock, nowMs: number): number {
    const { intervalMs } = this.probe(index);
    const first = lastBefore(clock.phase, intervalMs, nowMs) + intervalMs;
    return first <= clock.lastSentMs + EPSILON_MS ? clock.lastSentMs + intervalMs : first;
  }

  private probe(index: number): Probe {
    return this.network.watches[index].watch as Probe;
  }

  /** Processes the events of a moment that `next` returned. Returns the watches whose state changes. */
  take({ atMs, isJustBefore }: ProbeMoment, nowMs: number): number[] {
    const turned: number[] = [];
    for (const [index, clock] of this.clocks) {
      if (clock.phase.isJustBefore !== isJustBefore) continue;
      const sendsAtMs = this.isAtRest(index, clock) ? null : this.nextSending(index, clock, nowMs);
      let isUp = this.believed[index] === 1;
      while (clock.givenUpAtMs.length && clock.givenUpAtMs[0] <= atMs + EPSILON_MS) {
        clock.givenUpAtMs.shift();
        isUp = this.count(index, clock, isUp, false);
      }
      if (sendsAtMs !== null && sendsAtMs <= atMs + EPSILON_MS) {
        clock.lastSentMs = sendsAtMs;
        if (this.reads[index]) {
          clock.givenUpAtMs.length = 0;
          isUp = this.count(index, clock, isUp, true);
        } else clock.givenUpAtMs.push(sendsAtMs + this.probe(index).timeoutMs);
      }
      if (isUp !== (this.believed[index] === 1)) turned.push(index);
    }
    return turned;
  }

  private count(index: number, clock: Clock, isUp: boolean, answered: boolean): boolean {
    clock.row = answered === isUp ? 0 : clock.row + 1;
    const { failAfter, recoverAfter } = this.probe(index);
    if (clock.row < (isUp ? failAfter : recoverAfter)) return isUp;
    clock.row = 0;
    return !isUp;
  }
}

/** The last sending that lies before now: for clocks that come just before everything else, the one of now is past. */
function lastBefore({ sentMs, isJustBefore }: ProbePhase, intervalMs: number, nowMs: number): number {
  const passed = (nowMs - sentMs) / intervalMs;
  const whole = isJustBefore ? Math.floor(passed + EPSILON_MS) : Math.ceil(passed - EPSILON_MS) - 1;
  return sentMs + whole * intervalMs;
}
