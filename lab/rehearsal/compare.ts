import type { TimelineReport } from "../../core/reports/index.ts";
import type { Observed } from "./observed.ts";

type Predicted = TimelineReport["flows"][number];
type Spans = Predicted["spans"];

/** Allowed differences between prediction and observation, in milliseconds. */
export interface Allowed {
  /** How late this machine was, measured while it ran. */
  readonly lateMs: number;
  /** The interval between packets: shorter gaps are invisible. */
  readonly periodMs: number;
}

/** Gateways that carry, by their ids, and for how long. */
export interface Stretch {
  readonly carriers: readonly string[];
  readonly ms: number;
}

/** A flow's carriers one after the other, by id, as predicted in one case. */
function predictedSequence(spans: Spans): Stretch[] {
  const found: { carriers: string[]; ms: number }[] = [];
  for (const { verdict, carriers, fromMs, toMs } of spans) {
    if (verdict !== "works") continue;
    const ms = (toMs ?? Number.POSITIVE_INFINITY) - fromMs;
    const last = found.at(-1);
    if (last && last.carriers.join() === carriers.join()) last.ms += ms;
    else found.push({ carriers: [...carriers].sort(), ms });
  }
  return found;
}

/** Why an observation differs from the prediction, as a sentence; null if they agree. `cases` are the spans of all
 * simulated runs: the order of carriers must match one of them. */
export function disagreement(
  predicted: Predicted,
  cases: readonly Spans[],
  before: readonly string[],
  seen: Observed,
  seenCarriers: readonly Stretch[],
  { lateMs, periodMs }: Allowed,
): string | null {
  if (predicted.spans.some(({ uncertain }) => uncertain)) return null;
  const { min, max, unknown } = predicted.outageMs;
  if (unknown) return null;
  if (!seen.works && max !== null) return "it did not recover, as predicted it should";
  if (seen.works && min === null) return "it recovered, although predicted not to";
  if (seen.works && min !== null) {
    if (seen.outageMs.max + lateMs < min)
      return `observed gap at most ${ms(seen.outageMs.max)}, predicted at least ${ms(min)}`;
    if (max !== null && seen.outageMs.min - lateMs > max)
      return `observed gap at least ${ms(seen.outageMs.min)}, predicted at most ${ms(max)}`;
  }
  const short = periodMs * 2 + lateMs;
  const fits = [predicted.spans, predicted.leastSpans, ...cases].some((spans) => {
    const sequence = [{ carriers: before, ms: 0 }, ...predictedSequence(spans)];
    return isObserved(sequence, seenCarriers, short, lateMs);
  });
  const words = seenCarriers.map(({ carriers }) => carriers.join(" and ") || "no gateway").join(", then ");
  return fits ? null : `carried by ${words}; the predicted order differs`;
}

/** Whether a sequence matches this one: entries too short to observe may be missing, and while a device changes its
 * routes one after the other (instantly in the prediction) others may carry for as long as the machine's lateness. */
function isObserved(
  predicted: readonly Stretch[],
  seen: readonly Stretch[],
  shortMs: number,
  lateMs: number,
): boolean {
  const key = ({ carriers }: Stretch) => [...carriers].sort().join();
  const from = (p: number, s: number): boolean => {
    if (p === predicted.length && s === seen.length) return true;
    if (s < seen.length && p < predicted.length && key(predicted[p]) === key(seen[s]) && from(p + 1, s + 1))
      return true;
    if (p < predicted.length) {
      const again = s > 0 && key(seen[s - 1]) === key(predicted[p]);
      if ((again || predicted[p].ms <= shortMs) && from(p + 1, s)) return true;
    }
    return s < seen.length && seen[s].ms <= lateMs && from(p, s + 1);
  };
  return from(0, 0);
}

const ms = (value: number) => `${Math.round(value)} ms`;
