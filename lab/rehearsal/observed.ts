import type { SentPackets } from "../agent/orders.ts";

/** Milliseconds, least and most. */
export interface Measured {
  readonly min: number;
  readonly max: number;
}

/** Gateways, as positions, and for how long they were seen: from the first packet by them to the last. */
export interface Carried {
  readonly gateways: readonly number[];
  readonly ms: number;
}

/** The observations of a flow, from the first failure on. */
export interface Observed {
  /** Of all gaps together: at least from the first packet lost to the last, at most between those that came back. */
  readonly outageMs: Measured;
  /** Whether the last packets came back. */
  readonly works: boolean;
  readonly sent: number;
  readonly lost: number;
  /** The carriers in order; lost packets are skipped. */
  readonly carriers: readonly Carried[];
  /** The last carriers before the first failure; null if nothing arrived. */
  readonly before: readonly number[] | null;
}

/** The number of final packets that decide how it ended. */
const LAST = 3;

/** What a flow's packets say; `startMs` is the first failure, in milliseconds since 1970. */
export function observedOf({ sentMs, stamps }: SentPackets, startMs: number): Observed {
  const found = sentMs.findIndex((ms) => ms >= startMs);
  const first = found < 0 ? sentMs.length : found;
  const came = stamps.slice(first);
  const before = stamps.slice(0, first).findLast((stamp) => stamp !== null) ?? null;
  return {
    outageMs: gaps(sentMs, stamps, first),
    works: came.slice(-LAST).every((stamp) => stamp !== null) && came.length > 0,
    sent: came.length,
    lost: came.filter((stamp) => stamp === null).length,
    carriers: carriersOf(before, sentMs.slice(first), came),
    before,
  };
}

function carriersOf(
  before: readonly number[] | null,
  sentMs: readonly number[],
  came: SentPackets["stamps"],
): Carried[] {
  const found: { gateways: readonly number[]; firstMs: number; ms: number }[] = [];
  const see = (gateways: readonly number[], atMs: number) => {
    const last = found.at(-1);
    if (last && alike(gateways, last.gateways)) last.ms = atMs - last.firstMs;
    else found.push({ gateways, firstMs: atMs, ms: 0 });
  };
  // Whoever carried before was there for as long as anybody looked.
  if (before)
    found.push({ gateways: before, firstMs: Number.NEGATIVE_INFINITY, ms: Number.POSITIVE_INFINITY });
  for (const [n, stamp] of came.entries()) if (stamp) see(stamp, sentMs[n]);
  return found.map(({ gateways, ms }) => ({ gateways, ms }));
}

const alike = (one: readonly number[], other: readonly number[]) => one.join() === other.join();

function gaps(sentMs: readonly number[], stamps: SentPackets["stamps"], first: number): Measured {
  let [min, max] = [0, 0];
  for (let i = first; i < stamps.length; i++) {
    if (stamps[i] !== null) continue;
    let last = i;
    while (last + 1 < stamps.length && stamps[last + 1] === null) last++;
    min += sentMs[last] - sentMs[i];
    max += (sentMs[last + 1] ?? sentMs[last]) - (sentMs[i - 1] ?? sentMs[i]);
    i = last;
  }
  return { min, max };
}
