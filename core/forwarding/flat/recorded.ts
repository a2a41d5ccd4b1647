import type { NextHop } from "../../rib/index.ts";
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

/**
 * The places on the way of a packet, by how many hops lie before each: device, VRF, the interface that it came in by
 * (-1 at its sender), its addresses as it came in and as they stand, and the hop by which it left.
 */
export class Stack {
  readonly device: number[] = [];
  readonly vrf: number[] = [];
  readonly in: number[] = [];
  readonly cameFrom: number[] = [];
  readonly cameTo: number[] = [];
  readonly source: number[] = [];
  readonly destination: number[] = [];
  /** Devices that have sent it on. */
  readonly sentOn: number[] = [];
  readonly sessions: (readonly NumberedSession[])[] = [];
  readonly out: number[] = [];
  /** The next hop where somebody took the packet there, for telling gateways; else null. */
  readonly taken: (NextHop | null)[] = [];

  /** Puts a packet at a place, as it comes in. */
  put(at: number, device: number, vrf: number, by: number, source: number, destination: number) {
    this.device[at] = device;
    this.vrf[at] = vrf;
    this.in[at] = by;
    this.cameFrom[at] = this.source[at] = source;
    this.cameTo[at] = this.destination[at] = destination;
  }

  /** Rule 6.3: whether the packet was here before with the same header, by the same interface and in the same VRF. */
  circles(at: number): boolean {
    for (let k = at - 1; k >= 0; k--) {
      if (
        this.device[k] === this.device[at] &&
        this.vrf[k] === this.vrf[at] &&
        this.in[k] === this.in[at] &&
        this.cameFrom[k] === this.cameFrom[at] &&
        this.cameTo[k] === this.cameTo[at]
      )
        return true;
    }
    return false;
  }
}

/** Whole numbers in a row, in memory that is used again and again. */
export class Numbers {
  list = new Int32Array(256);
  length = 0;

  push(value: number) {
    this.reserve(1);
    this.list[this.length++] = value;
  }

  /** Makes room for so many more. */
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
