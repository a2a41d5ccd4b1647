import { type FlowSweep, type Part, type Progress, sweep } from "../failures/index.ts";
import { formatElement, type Network } from "../network/index.ts";
import type { Flow } from "../plan/index.ts";
import type { Scenario, StoppedOutage } from "../scenario/index.ts";
import { type Engine, variantsOf } from "../settle/index.ts";
import {
  breakingInTime,
  firstFailure,
  Outcomes,
  type Span,
  type Step,
  type Timeline,
  timelineOf,
} from "../timeline/index.ts";
import {
  flowQuestions,
  type GatewayRecord,
  type Question,
  questionsOf,
  walkBothWays,
} from "../walk/index.ts";
import { eventText } from "../words/index.ts";
import { type CrowdedSpan, OverloadReporter } from "./capacity.ts";
import { marksOf } from "./marks.ts";
import type { SessionsReport, SpanReport, SweepReport, TimelineReport, WatchReport } from "./schemas.ts";
import { sessionsOf } from "./sessions.ts";

/** The result for established sessions: null if the flow never works, and then the key is omitted. */
function sessionsAtEnd(
  engine: Engine,
  question: Question,
  { longest, runs }: Timeline,
  { keyOf }: Outcomes,
): { sessions?: SessionsReport } {
  const worlds = variantsOf(longest.end);
  const before = walkBothWays(engine.healthy.world, question);
  const works = [before, ...worlds.map((world) => walkBothWays(world, question))].every(
    ({ verdict }) => verdict === "works",
  );
  if (!works) return {};
  return sessionsOf(engine.network, breakingInTime(before, question, runs, keyOf) ?? "kept");
}

/** A flow, by its id, with what a sweep found of it. */
export interface SweptFlow {
  readonly flow: string;
  readonly swept: FlowSweep;
}

/** The sweep of a plan's flows (rule 10.4), or of some of them, or under a part of the failures: none rests on another. */
export function sweepFlows(
  engine: Engine,
  gateways: readonly GatewayRecord[],
  depth: 1 | 2 | 3,
  progress?: Progress,
  flows?: readonly Flow[],
  part?: Part,
): SweptFlow[] {
  const asked = questionsOf(engine.network, flows ?? engine.network.plan.flows);
  const questions = asked.map(({ question }) => question);
  return sweep(engine, gateways, questions, depth, progress, part).map((swept, i) => ({
    flow: asked[i].flow.id,
    swept,
  }));
}

/** The result of every flow under every failure, to a depth (rule 10.4). */
export function sweepReport(
  engine: Engine,
  gateways: readonly GatewayRecord[],
  depth: 1 | 2 | 3,
  progress?: Progress,
): SweepReport {
  const ids = (carriers: readonly number[]) => carriers.map((g) => gateways[g].id);
  return {
    flows: sweepFlows(engine, gateways, depth, progress).map(({ flow, swept: { nominal, failures } }) => ({
      id: flow,
      nominal: { verdict: nominal.verdict, carriers: ids(nominal.carriers), ...marksOf(nominal) },
      failures: failures.map((failure) => ({
        failed: failure.failed.map((element) => formatElement(engine.network, element)),
        verdict: failure.verdict,
        carriers: ids(failure.carriers),
        outageMs: failure.outageMs,
        ...marksOf(failure),
        ...sessionsOf(engine.network, failure.sessions),
      })),
    })),
  };
}

/** The latest events in a paused outage, as sentences. */
export function eventTexts(of: Scenario, { happenings }: StoppedOutage): string[] {
  const flowIds = of.flows().map(({ flow }) => flow.id);
  return happenings.map((what) => eventText(of.network, of.gateways, flowIds, what));
}

/** An outage timeline for every flow of the plan (rule 10.2). Times count from the first failure. */
export function timelineReport(
  engine: Engine,
  gateways: readonly GatewayRecord[],
  steps: readonly Step[],
): TimelineReport {
  return runThrough(engine, gateways, steps).report;
}

/** A virtual router that took over or stepped back in an outage. */
export interface MovedVirtual {
  device: string;
  port: string;
  id: number;
}

/** A simulated outage, with the data that is shown beside its report. */
export interface Run {
  report: TimelineReport;
  /** For each flow of the report the spans of every case that was simulated. */
  cases: SpanReport[][][];
  /** Whether it never settles (rule 9.5). */
  flapping: boolean;
  /** Virtual routers that took over or stepped back. */
  moved: MovedVirtual[];
  /** Overloaded interfaces and links, and when, in the longest case (rule 19). */
  crowded: CrowdedSpan[];
  /** The number of unknown phases if there are too many to combine, so that the gaps are estimates (rule 10.2); else 0.
   * */
  beyondCombining: number;
}

/** The same with all else that is known of it. */
export function runThrough(engine: Engine, gateways: readonly GatewayRecord[], steps: readonly Step[]): Run {
  const asked = flowQuestions(engine.network);
  const questions = asked.map(({ question }) => question);
  const rates = asked.map(({ flow }) => flow.rate ?? 1);
  const asking = new Outcomes(gateways, questions, engine.healthy.world);
  const timeline = timelineOf(engine, asking, rates, steps, true);
  const flowIds = asked.map(({ flow }) => flow.id);
  const start = firstFailure(steps);
  const spans = (list: readonly Span[]) =>
    list.map((span) => ({
      fromMs: span.fromMs,
      toMs: span.toMs,
      verdict: span.verdict,
      carriers: span.carriers.map((g) => gateways[g].id),
      ...marksOf(span),
    }));
  const watches = new Map<number, WatchReport["changes"]>();
  for (const { atMs, what } of timeline.longest.events) {
    if (what.kind !== "watch") continue;
    const changes = watches.get(what.watch) ?? [{ fromMs: 0, up: !what.up }];
    changes.push({ fromMs: Math.ceil(atMs - start), up: what.up });
    watches.set(what.watch, changes);
  }
  const { devices, watches: records } = engine.network;
  const report = {
    watches: [...watches].map(([w, changes]) => ({
      watch: `${devices[records[w].device].id}/${records[w].watch.id}`,
      changes,
    })),
    events: timeline.longest.events.map(({ atMs, what }) => ({
      atMs: Math.ceil(atMs - start),
      what: eventText(engine.network, gateways, flowIds, what),
    })),
    flows: timeline.flows.map((flow, i) => ({
      id: flowIds[i],
      spans: spans(flow.spans),
      leastSpans: spans(flow.leastSpans),
      outageMs: flow.outageMs,
      lost: flow.lost,
      ...sessionsAtEnd(engine, questions[i], timeline, asking),
    })),
  };
  const { longest } = timeline;
  const moved = new Set(
    longest.events.flatMap(({ what }) => (what.kind === "virtual" ? [what.virtual] : [])),
  );
  return {
    report,
    cases: timeline.flows.map((flow) => flow.cases.map(spans)),
    flapping: longest.flapping,
    moved: movedOf(engine.network, moved),
    beyondCombining: timeline.beyondCombining,
    crowded: new OverloadReporter(engine, gateways, asked).inTime(timeline, start),
  };
}

function movedOf({ virtuals, interfaces, devices }: Network, moved: ReadonlySet<number>): MovedVirtual[] {
  const found = [...moved].map((v): MovedVirtual => {
    const { interface: i, id } = virtuals[v];
    return { device: devices[interfaces.device[i]].id, port: interfaces.names[i], id };
  });
  // One entry may cover both families.
  return found.filter(
    (one, n) =>
      found.findIndex((o) => o.device === one.device && o.port === one.port && o.id === one.id) === n,
  );
}
