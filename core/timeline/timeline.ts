import type { Network } from "../network/index.ts";
import type { Engine } from "../settle/index.ts";
import { doesAsExpected, type Question } from "../walk/index.ts";
import { type Outcomes, sameOutcome } from "./outcomes.ts";
import type { ProbePhase, ProbePhases } from "./probes.ts";
import {
  firstFailure,
  type Interval,
  type Phase,
  PROBE_PHASE,
  type Simulation,
  type SimulationEvent,
  type Span,
  type Step,
  simulate,
} from "./simulate.ts";

/** Milliseconds, least and most; null: without end. */
export interface Range {
  readonly min: number | null;
  readonly max: number | null;
  /** How long it lasts at most is not known: a learned route does not say when it is lost (rule 3.3). */
  readonly unknown?: true;
}

export interface FlowTimeline {
  readonly spans: readonly Span[];
  readonly leastSpans: readonly Span[];
  /** How long the flow did not work, all gaps together; of a flow that must be denied, how long its packets arrived. */
  readonly outageMs: Range;
  /** Packets lost at the flow's rate. */
  readonly lost: Range;
  /** The spans of every case that was simulated, those two among them. */
  readonly cases: readonly (readonly Span[])[];
}

export interface Timeline {
  readonly longest: Simulation;
  readonly shortest: Simulation;
  /** Every case that was simulated, those two among them. */
  readonly runs: readonly Simulation[];
  readonly flows: readonly FlowTimeline[];
  /** How many phases are not known where that is more than can be combined: the bounds are an estimate then; else 0. */
  readonly beyondCombining: number;
}

/** An outage timeline (rules 10.2 and 10.3). `rates` are in packets per second, one per question. Phases are
 * independent: both ends of all are simulated and, if `thorough`, everything that `runsOf` adds. */
export function timelineOf(
  engine: Engine,
  asked: Outcomes,
  rates: readonly number[],
  steps: readonly Step[],
  thorough = false,
): Timeline {
  const latest = simulate(engine, asked, steps, "max");
  const shortest = latest.unknown.size ? simulate(engine, asked, steps, "min") : latest;
  const unknown = new Map([latest, shortest].flatMap((run) => [...run.unknown]));
  const more = thorough ? runsOf(unknown).map((phase) => simulate(engine, asked, steps, phase)) : [];
  const runs = [latest, ...(shortest === latest ? [] : [shortest]), ...more];
  const onlyProbes = [...unknown.keys()].every((name) => name.startsWith(PROBE_PHASE));
  const ends = onlyProbes ? (["max"] as const) : (["max", "min"] as const);
  const { phases, complete } = thorough
    ? probePhasesOf(engine.network, unknown, steps, [latest, shortest], ends.length)
    : { phases: [], complete: true };
  for (const phase of phases) for (const end of ends) runs.push(simulate(engine, asked, steps, end, phase));
  /** The summed outage of all flows, by run. */
  const sums = runs.map(() => 0);
  const flows = asked.questions.map((question, i): FlowTimeline => {
    const cases = runs.map((run, n) => {
      const spans = fromFailure(run.spans[i], steps);
      const downMs = downTime(question, spans, run.flapping);
      sums[n] += downMs ?? Number.POSITIVE_INFINITY;
      return { spans, downMs, isOpen: run.waitsForEver };
    });
    const longCase = cases.reduce((a, b) => (compareDown(b.downMs, a.downMs) > 0 ? b : a));
    // Of cases that take equally long, the one in which all is soonest is the shortest.
    const shortCase = [cases[runs.indexOf(shortest)], ...cases].reduce((a, b) =>
      compareDown(b.downMs, a.downMs) < 0 ? b : a,
    );
    const exact = { min: shortCase.downMs, max: longCase.downMs };
    // Elections skew times to fractions of a millisecond: bounds are rounded outward (rule 14.2).
    const bounds = {
      min: exact.min === null ? null : Math.floor(exact.min),
      max: exact.max === null ? null : Math.ceil(exact.max),
    };
    // What waits for ever does so only as far as the plan says: the routes are lost some time.
    const unknown = longCase.downMs === null && longCase.isOpen && shortCase.downMs !== null;
    const outageMs: Range = unknown ? { ...bounds, unknown } : bounds;
    const packets = (ms: number | null, round: (n: number) => number) =>
      ms === null ? null : round((ms * rates[i]) / 1000);
    const settled = cases.filter(({ isOpen }) => !isOpen);
    const open = endsDiffer((settled.length ? settled : cases).map(({ spans }) => spans));
    return {
      spans: endingUncertain(rounded(longCase.spans, Math.ceil), open),
      leastSpans: endingUncertain(rounded(shortCase.spans, Math.floor), open),
      outageMs,
      lost: { min: packets(exact.min, Math.floor), max: packets(exact.max, Math.ceil) },
      cases: cases.map(({ spans }) => rounded(spans, Math.ceil)),
    };
  });
  const beyondCombining = unknown.size > MAX_COMBINED || !complete ? unknown.size : 0;
  const longest = runs[sums.indexOf(Math.max(...sums))] ?? latest;
  return { longest, shortest, runs, flows, beyondCombining };
}

/** Phases that are tried per probe. */
const MAX_PHASES = 48;
/** Simulations for phases of probes: at most this many, and fewer on large networks, where each takes longer. */
const MAX_PHASE_RUNS = 256;
const MIN_PHASE_RUNS = 16;
const PHASE_RUNS_TIMES_DEVICES = 16_000;

/**
 * Phases of probes at which the order of events changes (rule 9.3): a probe is sent or given up just before or just after a step
 * or another event. All combinations, or if these are too many, one probe at a time, as far as the simulations go: then they are
 * not `complete`. Each phase is simulated `runsEach` times.
 */
function probePhasesOf(
  { watches, devices }: Network,
  unknown: ReadonlyMap<string, Interval>,
  steps: readonly Step[],
  runs: readonly Simulation[],
  runsEach: number,
): { phases: ProbePhases[]; complete: boolean } {
  const most =
    Math.min(MAX_PHASE_RUNS, Math.max(MIN_PHASE_RUNS, PHASE_RUNS_TIMES_DEVICES / devices.length)) / runsEach;
  const probes = watches.flatMap(({ index, watch }) =>
    watch.kind === "probe" && unknown.has(PROBE_PHASE + index) ? [{ index, watch }] : [],
  );
  const isGroup = (what: SimulationEvent) =>
    what.kind === "watch" && watches[what.watch].watch.kind === "group";
  const events = runs
    .flatMap((run) => run.events)
    .filter(({ what }) => what.kind !== "flow" && !isGroup(what));
  const moments = (index: number) => [
    ...steps.map(({ atMs }) => atMs),
    ...events.flatMap(({ atMs, what }) => (what.kind === "watch" && what.watch === index ? [] : [atMs])),
  ];
  const choices = probes.map(({ index, watch }) => {
    const { intervalMs, timeoutMs } = watch;
    const sentMs = new Set(
      moments(index).flatMap((atMs) => [
        atMs % intervalMs,
        (atMs + intervalMs - (timeoutMs % intervalMs)) % intervalMs,
      ]),
    );
    return [...sentMs]
      .slice(0, MAX_PHASES / 2)
      .flatMap((ms) => [false, true].map((isJustBefore): ProbePhase => ({ sentMs: ms, isJustBefore })));
  });
  const combinations = choices.reduce((product, { length }) => product * length, 1);
  if (combinations > most) {
    const single = probes.flatMap(({ index }, n) => choices[n].map((phase) => new Map([[index, phase]])));
    const step = Math.max(1, single.length / most);
    const phases = Array.from(
      { length: Math.floor(single.length / step) },
      (_, n) => single[Math.floor(n * step)],
    );
    return { phases, complete: false };
  }
  const phases = choices.reduce<Map<number, ProbePhase>[]>(
    (maps, list, n) =>
      maps.flatMap((map) => list.map((phase) => new Map([...map, [probes[n].index, phase]]))),
    probes.length ? [new Map()] : [],
  );
  return { phases, complete: true };
}

/** Up to `MAX_COMBINED` unknown phases, every combination of their ends is simulated; up to the second limit, one is
 * flipped at a time. */
const MAX_COMBINED = 8;
const MAX_TURNED = 64;

/** Choices of phases beyond all-minimum and all-maximum: every combination of ends, plus each two whose intervals
 * overlap at one moment; if there are too many, each phase flipped alone. */
function runsOf(unknown: ReadonlyMap<string, Interval>): Phase[] {
  const names = [...unknown.keys()];
  if (names.length < 2) return [];
  const late =
    (isLate: (name: string) => boolean): Phase =>
    (name, { fromMs, toMs }) =>
      isLate(name) ? toMs : fromMs;
  if (names.length > MAX_COMBINED)
    return names
      .slice(0, MAX_TURNED)
      .flatMap((turned) => [late((name) => name === turned), late((name) => name !== turned)]);
  const combined = Array.from({ length: 2 ** names.length - 2 }, (_, n) => {
    const chosen = new Set(names.filter((_name, k) => ((n + 1) >> k) & 1));
    return late((name) => chosen.has(name));
  });
  const together = names.flatMap((one, k) =>
    names.slice(k + 1).flatMap((other) => {
      const [a, b] = [unknown.get(one), unknown.get(other)] as [Interval, Interval];
      const atMs = Math.max(a.fromMs, b.fromMs);
      if (atMs > Math.min(a.toMs, b.toMs)) return [];
      return [false, true].map(
        (rest): Phase =>
          (name, interval) =>
            name === one || name === other
              ? Math.min(Math.max(atMs, interval.fromMs), interval.toMs)
              : rest
                ? interval.toMs
                : interval.fromMs,
      );
    }),
  );
  return [...combined, ...together];
}

/** Without end is the longest. */
function compareDown(a: number | null, b: number | null): number {
  return (a ?? Number.POSITIVE_INFINITY) - (b ?? Number.POSITIVE_INFINITY) || 0;
}

/** Whether cases end otherwise: where the end rests on history, it is not known. */
function endsDiffer(cases: readonly (readonly Span[])[]): boolean {
  const [first, ...others] = cases.map((spans) => spans.at(-1));
  return others.some((last) => first && last && !sameOutcome(first, last));
}

function endingUncertain(spans: readonly Span[], open: boolean): readonly Span[] {
  return open
    ? spans.map((span, n) => (n === spans.length - 1 ? { ...span, uncertain: true } : span))
    : spans;
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

/** The total time a flow missed its expectation: it did not work, or it arrived although it must be denied. Null if it
 * ends broken or never settles. */
function downTime(question: Question, spans: readonly Span[], flapping: boolean): number | null {
  const fine = (span: Span) => doesAsExpected(question, span);
  const last = spans.at(-1);
  const unsettled = flapping && !(question.mustBeDenied && spans.every(fine));
  if (unsettled || !last || !fine(last)) return null;
  return spans.reduce(
    (sum, span) => (fine(span) || span.toMs === null ? sum : sum + span.toMs - span.fromMs),
    0,
  );
}
