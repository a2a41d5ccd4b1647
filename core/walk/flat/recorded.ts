import type { Session } from "../packet.ts";

/** How a walk ended. */
export const results = { delivered: 0, dropped: 1, looped: 2 } as const;

/** A walk that has ended: where, how, and with which addresses; numbers throughout. */
export interface WalkRecord {
  result: number;
  /** A place in `dropCodes`, or -1. */
  code: number;
  device: number;
  vrf: number;
  source: number;
  destination: number;
  /** Whether the packet's source was never chosen: such a packet gets no answer. */
  undecided: boolean;
  /** Its hops in the list of ways: a device and the interface that it left by, two numbers a hop. */
  wayStart: number;
  wayEnd: number;
  sessions: readonly NumberedSession[];
}

/** A `Session` with addresses by number. */
export interface NumberedSession {
  readonly device: Session["device"];
  readonly original: number;
  readonly translated: number;
}

export const noSessions: readonly NumberedSession[] = [];

export function emptyRecord(): WalkRecord {
  return {
    result: results.dropped,
    code: -1,
    device: -1,
    vrf: -1,
    source: -1,
    destination: -1,
    undecided: false,
    wayStart: 0,
    wayEnd: 0,
    sessions: noSessions,
  };
}

/** Whole numbers in a row, in memory that is used again and again. */
export class Numbers {
  list = new Int32Array(256);
  length = 0;

  push(value: number) {
    this.reserve(1);
    this.list[this.length++] = value;
  }

  /** Ensures capacity for `more` further entries. */
  reserve(more: number) {
    if (this.length + more <= this.list.length) return;
    const larger = new Int32Array((this.length + more) * 2);
    larger.set(this.list);
    this.list = larger;
  }

  /** Adds a part of another list. */
  take(from: Int32Array, start: number, end: number) {
    this.reserve(end - start);
    const { list } = this;
    let to = this.length;
    for (let at = start; at < end; at++) list[to++] = from[at];
    this.length = to;
  }
}
