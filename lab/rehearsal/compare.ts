import type { TimelineReport } from "../../core/reports/index.ts";
import type { Observed } from "./observed.ts";

type Predicted = TimelineReport["flows"][number];

/** What is allowed between the prediction and what was seen, in milliseconds. */
export interface Allowed {
  /** How late this machine was, measured while it ran. */
  readonly lateMs: number;
  /** Between two packets: what is shorter is not seen. */
  readonly periodMs: number;
}

/** A flow's carriers one after the other, by id, as predicted: in the longest case or in the shortest. */
export function predictedSequence(spans: Predicted["spans"]): { carriers: string[]; ms: number }[] {
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

/** Why what was seen is not what was predicted, in a sentence; null where they agree. */
export function disagreement(
  predicted: Predicted,
  before: readonly string[],
  seen: Observed,
  seenCarriers: readonly (readonly string[])[],
  { lateMs, periodMs }: Allowed,
): string | null {
  if (predicted.spans.some(({ uncertain }) => uncertain)) return null;
  const { min, max } = predicted.outageMs;
  if (!seen.works && max !== null) return "it did not come back, and was predicted to";
  if (seen.works && min === null) return "it came back, and was predicted not to";
  if (seen.works && min !== null) {
    if (seen.outageMs.max + lateMs < min)
      return `it was silent for at most ${ms(seen.outageMs.max)}; at least ${ms(min)} were predicted`;
    if (max !== null && seen.outageMs.min - lateMs > max)
      return `it was silent for at least ${ms(seen.outageMs.min)}; at most ${ms(max)} were predicted`;
  }
  const short = periodMs * 2 + lateMs;
  const fits = [predicted.spans, predicted.leastSpans].some((spans) => {
    const sequence = [{ carriers: [...before].sort(), ms: 0 }, ...predictedSequence(spans)];
    return isSeen(sequence, seenCarriers, short);
  });
  const words = seenCarriers.map((carriers) => carriers.join(" and ") || "no gateway").join(", then ");
  return fits ? null : `it was carried by ${words}; another order was predicted`;
}

/** Whether a sequence shows as this one: only what is too short to be seen may be missing. */
function isSeen(
  predicted: readonly { carriers: readonly string[]; ms: number }[],
  seen: readonly (readonly string[])[],
  shortMs: number,
): boolean {
  let at = 0;
  for (const { carriers, ms } of predicted) {
    const key = [...carriers].sort().join();
    if (at < seen.length && [...seen[at]].sort().join() === key) at++;
    else if (at > 0 && [...seen[at - 1]].sort().join() === key) continue;
    else if (ms > shortMs) return false;
  }
  return at === seen.length;
}

const ms = (value: number) => `${Math.round(value)} ms`;
