import type { Watch } from "../../../core/plan/index.ts";
import type { WatchReport } from "../../../core/reports/index.ts";

/** A drawn packet of a watch, sent or received. */
export interface Sign {
  fromMs: number;
  toMs: number;
  /** "silent": a session that hears nothing and has not given up yet. */
  kind: "answered" | "missed" | "silent";
}

/** More probes than this are indistinguishable in a drawing. */
const MAX_SIGNS = 240;

/**
 * The single probes of a watch over the time of an outage, in the longest case, worked back from when it went
 * down and came up (rule 9.3): the last of `failAfter` missed ones ends with its timeout as the watch goes down;
 * the last of `recoverAfter` answered ones brings it up. For a session, the silence from the failure until it
 * gives up (rule 9.2).
 */
export function signsOf(
  watch: Watch | undefined,
  changes: WatchReport["changes"],
  failsAtMs: readonly number[],
  endMs: number,
): Sign[] {
  const turns = changes.slice(1);
  if (watch?.kind === "bfd") {
    return turns.flatMap(({ fromMs, up }): Sign[] => {
      const failed = failsAtMs.findLast((ms) => ms <= fromMs);
      return up || failed === undefined ? [] : [{ fromMs: failed, toMs: fromMs, kind: "silent" }];
    });
  }
  if (watch?.kind !== "probe" || turns.length === 0) return [];
  const { intervalMs, timeoutMs, failAfter, recoverAfter } = watch;
  if (endMs / intervalMs > MAX_SIGNS) return [];
  /** Stretches in which probes go unanswered, by when they are sent. */
  const missed = turns.flatMap((turn, i): [number, number][] => {
    if (turn.up) return [];
    const from = turn.fromMs - timeoutMs - (failAfter - 1) * intervalMs;
    const back = turns[i + 1];
    return [[from, back ? back.fromMs - (recoverAfter - 1) * intervalMs : Number.POSITIVE_INFINITY]];
  });
  const phase = turns[0].up ? turns[0].fromMs : turns[0].fromMs - timeoutMs;
  const width = Math.min(intervalMs * 0.6, Math.max(endMs / 260, 1));
  const signs: Sign[] = [];
  for (let at = ((phase % intervalMs) + intervalMs) % intervalMs; at < endMs; at += intervalMs) {
    const lost = missed.some(([from, to]) => at >= from - 1 && at < to - 1);
    signs.push({ fromMs: at, toMs: Math.min(endMs, at + width), kind: lost ? "missed" : "answered" });
  }
  return signs;
}
