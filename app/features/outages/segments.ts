import type { SpanReport, TimelineReport } from "../../../core/reports/index.ts";
import type { TimelineAnswer } from "../../queries/asks.ts";

/** A drawn segment of a flow's timeline. */
export interface Segment {
  fromMs: number;
  toMs: number;
  /** The gateway that carries; "" where it works without one. */
  carrier: string;
  /** "lost" for certain, "perhaps" lost only in the longest case. */
  state: "works" | "perhaps" | "lost";
}

/** What a flow does at a moment of a list of spans. */
function at(spans: readonly SpanReport[], ms: number): SpanReport | undefined {
  return spans.find((span) => span.fromMs <= ms && (span.toMs === null || ms < span.toMs));
}

/**
 * The longest and the shortest case of a flow as one row: where both are silent it is lost for certain, where
 * only the longest is, perhaps.
 */
export function segmentsOf(flow: TimelineReport["flows"][number], endMs: number): Segment[] {
  const cuts = [...flow.spans, ...flow.leastSpans].flatMap((span) => [span.fromMs, span.toMs ?? endMs]);
  const edges = [...new Set([0, endMs, ...cuts])]
    .filter((ms) => ms >= 0 && ms <= endMs)
    .sort((a, b) => a - b);
  const segments: Segment[] = [];
  for (const [i, fromMs] of edges.slice(0, -1).entries()) {
    const toMs = edges[i + 1];
    const long = at(flow.spans, fromMs);
    const short = at(flow.leastSpans, fromMs);
    const works = long?.verdict === "works";
    const state = works ? "works" : short?.verdict === "works" ? "perhaps" : "lost";
    const carrier = works ? (long?.carriers[0] ?? "") : "";
    const last = segments[segments.length - 1];
    if (last && last.state === state && last.carrier === carrier) last.toMs = toMs;
    else segments.push({ fromMs, toMs, carrier, state });
  }
  return segments;
}

/** The number of events drawn of an outage that never settles. */
const FEW_OF_MANY = 40;

/** The last moment that is drawn of an outage, in milliseconds from its first failure. */
export function lastDrawn({ events, flapping }: Pick<TimelineAnswer, "events" | "flapping">): number {
  const drawn = flapping ? events.slice(0, FEW_OF_MANY) : events;
  return Math.max(0, ...drawn.map((event) => event.atMs));
}

/** The scale of a drawing: how far apart its marks are, and where it ends, a while after the last thing that is drawn. */
export function scaleOf(
  report: Pick<TimelineAnswer, "events" | "flapping">,
  healMs: number | null,
  wantedMs = 0,
): { stepMs: number; endMs: number } {
  const last = Math.max(1000, healMs ?? 0, wantedMs / 1.1, lastDrawn(report));
  const rough = (last * 1.1) / 8;
  const power = 10 ** Math.floor(Math.log10(rough));
  const stepMs = ([1, 2, 5].find((n) => n * power >= rough) ?? 10) * power;
  return { stepMs, endMs: Math.ceil((last * 1.1) / stepMs) * stepMs };
}
