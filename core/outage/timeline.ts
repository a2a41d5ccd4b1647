import type { Engine } from "../convergence/index.ts";
import type { Outcomes } from "./outcomes.ts";
import { firstFailure, type Simulation, type Span, type Step, simulate } from "./simulate.ts";

/** Milliseconds, least and most; null: without end. */
export interface Range {
  readonly min: number | null;
  readonly max: number | null;
}

export interface FlowTimeline {
  readonly spans: readonly Span[];
  readonly leastSpans: readonly Span[];
  /** How long the flow did not work, all gaps together. */
  readonly outageMs: Range;
  /** Packets lost at the flow's rate. */
  readonly lost: Range;
}

export interface Timeline {
  readonly longest: Simulation;
  readonly shortest: Simulation;
  readonly flows: readonly FlowTimeline[];
}

/**
 * An outage in time: both ends of every unknown phase simulated (rules 10.2 and 10.3). `rates` in packets
 * a second, one for each of the flows' questions.
 */
export function timelineOf(
  engine: Engine,
  asked: Outcomes,
  rates: readonly number[],
  steps: readonly Step[],
): Timeline {
  const longest = simulate(engine, asked, steps, "max");
  const shortest = longest.exact ? longest : simulate(engine, asked, steps, "min");
  const flows = asked.questions.map((_, i): FlowTimeline => {
    const long = fromFailure(longest.spans[i], steps);
    const short = fromFailure(shortest.spans[i], steps);
    const [spans, leastSpans] = [rounded(long, Math.ceil), rounded(short, Math.floor)];
    const [a, b] = [downTime(short, shortest.flapping), downTime(long, longest.flapping)];
    const exact = { min: least(a, b), max: most(a, b) };
    // Times are not whole milliseconds where elections skew them: bounds are told outward (rule 14.2).
    const outageMs = {
      min: exact.min === null ? null : Math.floor(exact.min),
      max: exact.max === null ? null : Math.ceil(exact.max),
    };
    const packets = (ms: number | null, round: (n: number) => number) =>
      ms === null ? null : round((ms * rates[i]) / 1000);
    return {
      spans,
      leastSpans,
      outageMs,
      lost: { min: packets(exact.min, Math.floor), max: packets(exact.max, Math.ceil) },
    };
  });
  return { longest, shortest, flows };
}

/** Times from the first failure on. */
function fromFailure(spans: readonly Span[], steps: readonly Step[]): Span[] {
  const start = firstFailure(steps);
  return spans
    .filter((span) => span.toMs === null || span.toMs > start)
    .map((span) => ({
      ...span,
      fromMs: Math.max(0, span.fromMs - start),
      toMs: span.toMs === null ? null : span.toMs - start,
    }));
}

function rounded(spans: readonly Span[], round: (ms: number) => number): Span[] {
  return spans.map((span) => ({
    ...span,
    fromMs: round(span.fromMs),
    toMs: span.toMs === null ? null : round(span.toMs),
  }));
}

/** How long nothing worked, all in all; null where it ends not working, or never comes to rest. */
function downTime(spans: readonly Span[], flapping: boolean): number | null {
  const last = spans.at(-1);
  if (flapping || !last || last.verdict !== "works") return null;
  return spans.reduce(
    (sum, span) => (span.verdict === "works" || span.toMs === null ? sum : sum + span.toMs - span.fromMs),
    0,
  );
}

function least(a: number | null, b: number | null): number | null {
  return a === null || b === null ? (a ?? b) : Math.min(a, b);
}

function most(a: number | null, b: number | null): number | null {
  return a === null || b === null ? null : Math.max(a, b);
}
