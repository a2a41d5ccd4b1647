import type { Exchange } from "./conversation.ts";

/** A stretch of a conversation in which the same gateway carried, or nothing was answered. */
export interface ObservedSpan {
  /** From the first packet of the stretch to the first of the next; from the capture's start. */
  readonly fromMs: number;
  readonly toMs: number;
  readonly answered: boolean;
  /** The gateway that carried the packets out, "" where its hardware address is not known. */
  readonly gateway: string;
  readonly sent: number;
}

/** A silence: consecutive packets without an answer. */
export interface Silence {
  /** Sent with the first and the last of them, and with the first that was answered again. */
  readonly firstMs: number;
  readonly lastMs: number;
  readonly lost: number;
  /** How long nothing worked: at least and at most, as finely as packets were sent; null where it goes on. */
  readonly leastMs: number;
  readonly mostMs: number | null;
}

export interface Observed {
  readonly spans: readonly ObservedSpan[];
  readonly silences: readonly Silence[];
  /** Gateways in the order in which they carried. */
  readonly carriers: readonly string[];
  readonly sent: number;
  readonly lost: number;
  /** The usual time between two packets, in milliseconds. */
  readonly spacingMs: number;
}

/** The observed course of a conversation: carriers and silences. Times count from `startMs`. */
export function observedOf(
  exchanges: readonly Exchange[],
  gatewayOf: (hardware: readonly string[]) => string,
  startMs: number,
): Observed {
  const seen = exchanges.map((exchange) => ({
    atMs: exchange.atMs - startMs,
    answered: exchange.answeredMs !== null,
    gateway: gatewayOf([...exchange.outHardware, ...exchange.backHardware]),
  }));
  const spacingMs = median(seen.slice(1).map(({ atMs }, i) => atMs - seen[i].atMs));
  const spans: { fromMs: number; toMs: number; answered: boolean; gateway: string; sent: number }[] = [];
  const silences: Silence[] = [];
  let lastAnsweredMs: number | null = null;
  for (const [i, { atMs, answered, gateway }] of seen.entries()) {
    const next = seen[i + 1]?.atMs ?? atMs + spacingMs;
    const last = spans.at(-1);
    if (last && last.answered === answered && (last.gateway === gateway || !answered)) {
      last.toMs = next;
      last.sent++;
    } else spans.push({ fromMs: atMs, toMs: next, answered, gateway: answered ? gateway : "", sent: 1 });
    if (answered) {
      lastAnsweredMs = atMs;
      continue;
    }
    const silence = silences.at(-1);
    const goesOn = silence && seen[i - 1] && !seen[i - 1].answered;
    const firstMs = goesOn ? silence.firstMs : atMs;
    const after = seen[i + 1];
    const told = {
      firstMs,
      lastMs: atMs,
      lost: goesOn ? silence.lost + 1 : 1,
      leastMs: atMs - firstMs,
      mostMs: after ? after.atMs - (lastAnsweredMs ?? firstMs) : null,
    };
    if (goesOn) silences[silences.length - 1] = told;
    else silences.push(told);
  }
  const carriers: string[] = [];
  for (const span of spans) {
    if (span.answered && span.gateway !== "" && carriers.at(-1) !== span.gateway) carriers.push(span.gateway);
  }
  return {
    spans,
    silences,
    carriers,
    sent: seen.length,
    lost: seen.filter((entry) => !entry.answered).length,
    spacingMs,
  };
}

function median(values: number[]): number {
  if (values.length === 0) return 0;
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)];
}

/** A flow's prediction, as far as an observation can speak of it. Times count from the failure. */
export interface Predicted {
  readonly outageMs: { readonly min: number | null; readonly max: number | null };
  /** Gateways in the order in which they carry. */
  readonly carriers: readonly string[];
}

/** How an observation and a prediction go together, point by point. */
export interface Comparison {
  readonly gap: { readonly agrees: boolean; readonly leastMs: number; readonly mostMs: number | null };
  readonly carriers: { readonly agrees: boolean; readonly seen: readonly string[] };
}

/** Compares: the silences together overlap the predicted gap, and the gateways follow each other alike. */
export function compare(observed: Observed, predicted: Predicted): Comparison {
  const leastMs = observed.silences.reduce((sum, silence) => sum + silence.leastMs, 0);
  const open = observed.silences.some((silence) => silence.mostMs === null);
  const mostMs = open ? null : observed.silences.reduce((sum, silence) => sum + (silence.mostMs ?? 0), 0);
  // Where nothing was lost, the gap was shorter than the time between two packets.
  const seenMost = observed.silences.length === 0 ? observed.spacingMs : mostMs;
  const { min, max } = predicted.outageMs;
  const gap =
    min === null
      ? seenMost === null
      : (max === null || leastMs <= max) && (seenMost === null || seenMost >= min);
  const known = observed.carriers.length > 0;
  const alike =
    known &&
    observed.carriers.length === predicted.carriers.length &&
    observed.carriers.every((gateway, i) => gateway === predicted.carriers[i]);
  return {
    gap: { agrees: gap, leastMs, mostMs: seenMost },
    carriers: { agrees: alike, seen: observed.carriers },
  };
}
