import { addTo, BytePool, sliced } from "../collections/index.ts";
import { type ElementNumber, elementCount, type Network } from "../network/index.ts";
import {
  type Engine,
  oneOf,
  outcomeIn,
  type Settled,
  settle,
  variantsOf,
  worldsOf,
  worstOutcome,
} from "../settle/index.ts";
import {
  arrivesAlike,
  breakingInTime,
  Outcomes,
  type Range,
  type Simulation,
  sameOutcome,
  type Timeline,
  timelineOf,
} from "../timeline/index.ts";
import {
  type Breaking,
  breakingInAny,
  doesAsExpected,
  type FlatTrips,
  flatTrips,
  type GatewayRecord,
  type Outcome,
  type Question,
  type Trip,
  walkBothWays,
} from "../walk/index.ts";
import { Dependence } from "./dependence.ts";
import { type EffectClass, effectClasses, Touching } from "./effects.ts";

/** A flow's result once a set of elements has failed. */
export interface FailureOutcome extends Outcome {
  /** The failed elements, ascending. */
  readonly failed: readonly ElementNumber[];
}

export interface Failure extends FailureOutcome {
  readonly outageMs: Range;
  /** Why established sessions break, or "kept" if they survive; null if new packets fail as well (rule 18). */
  readonly sessions: Breaking | "kept" | null;
}

export interface FlowSweep {
  readonly nominal: Outcome;
  /**
   * Single failures that change the verdict, the carriers or open a gap; and, to the depth asked for, every
   * larger set that breaks the flow while none of its parts does. A flow that does not work has no sets.
   */
  readonly failures: readonly Failure[];
}

/** How far a sweep has come: sets of failures looked at. */
export type Progress = (covered: number, found: number) => boolean | undefined;

/** A part of the single failures: the `number`-th of `of` parts, counted from 0. */
export interface Part {
  readonly number: number;
  readonly of: number;
}

const WHOLE: Part = { number: 0, of: 1 };

/** Fails every element, and to depth 2 or 3 every set that can matter, and reports each flow's result (rule 10.4). Only
 * elements that a flow depends on are tried: those its walks visit, and those of the probes and tunnels of devices on
 * its path. The sets found are all minimal. To depth 1 the work can be split: the parts together find what the whole
 * finds. */
export function sweep(
  engine: Engine,
  gateways: readonly GatewayRecord[],
  questions: readonly Question[],
  depth: 1 | 2 | 3,
  progress?: Progress,
  part: Part = WHOLE,
): FlowSweep[] {
  const sweeper: Sweeper<Failure> = new Sweeper(engine, gateways, questions, depth, progress, (found, to) =>
    sweeper.timed(found, to),
  );
  return sweeper.run(part);
}

/** Like `sweep` without outage times, and much faster: only failures that change the verdict or the carriers. */
export function failuresOf(
  engine: Engine,
  gateways: readonly GatewayRecord[],
  questions: readonly Question[],
  depth: 1 | 2 | 3,
): { readonly nominal: Outcome; readonly failures: readonly FailureOutcome[] }[] {
  const sweeper: Sweeper<FailureOutcome> = new Sweeper(
    engine,
    gateways,
    questions,
    depth,
    undefined,
    (found, to) => sweeper.untimed(found, to),
  );
  return sweeper.run(WHOLE);
}

/** Bytes that the kept steady states of larger sets may take, about; past that they are let go. */
const MAX_BYTES = 96 * 1024 * 1024;

/** Approximate size in bytes of one kept state: a few bytes per element, plus its objects. */
function bytesOfState({ interfaces, links, devices, watches }: Network): number {
  return 2048 + 2 * interfaces.count + links.count + 2 * devices.length + 2 * watches.length;
}

const NO_END: Range = { min: null, max: null };

/** A set of element classes, and the affected flows with their results. */
interface ClassFailure {
  readonly set: readonly number[];
  /** Positions of the flows, and the result of each. */
  readonly flows: readonly number[];
  readonly outcomes: readonly Outcome[];
  readonly nominal: readonly Outcome[];
}

class Sweeper<F extends FailureOutcome> {
  private readonly classes: EffectClass[];
  private readonly classOf: Int32Array;
  private readonly touching: Touching;
  private readonly dependence: Dependence;
  private readonly trips: FlatTrips;
  private readonly singles = new Map<number, Settled>();
  private readonly larger = new Map<number, Settled>();
  private readonly mostKept: number;
  /** The single failure settled last; used only to depth 1. */
  private last: { readonly key: number; readonly settled: Settled } | null = null;
  /** Buffers for states that are read once. */
  private readonly lent = new BytePool();
  private readonly nominalTrips: (Trip | undefined)[] = [];
  private covered = 0;
  private found = 0;
  private stopped = false;

  constructor(
    private readonly engine: Engine,
    private readonly gateways: readonly GatewayRecord[],
    private readonly questions: readonly Question[],
    private readonly depth: 1 | 2 | 3,
    private readonly progress: Progress | undefined,
    /** Expands a set of classes to its failures and passes them on by flow position. */
    private readonly tell: (found: ClassFailure, to: (flow: number, failure: F) => void) => void,
  ) {
    this.classes = effectClasses(engine.network);
    this.classOf = new Int32Array(elementCount(engine.network));
    for (const [k, { members }] of this.classes.entries())
      for (const element of members) this.classOf[element] = k;
    this.touching = new Touching(engine.network, this.classes);
    this.dependence = new Dependence(engine.network);
    this.trips = flatTrips(engine.network);
    this.mostKept = Math.ceil(MAX_BYTES / bytesOfState(engine.network));
  }

  run({ number, of }: Part): { nominal: Outcome; failures: F[] }[] {
    const { depth } = this;
    if (depth > 1 && of > 1) throw new Error("only single failures can be computed in parts");
    const { world } = this.engine.healthy;
    const ways: Int32Array[] = [];
    const nominal = this.questions.map((question, i) => {
      const outcome = outcomeIn(world, question, this.gateways);
      ways[i] = this.trips.ways();
      return outcome;
    });
    const singles = this.questions.map((question) => this.dependsOn(this.engine.healthy, question));
    const failures = this.questions.map((): F[] => []);

    // One failure after the other, each settled once for all the flows that it can matter to.
    const flowsOfClass = this.classes.map((): number[] => []);
    for (const [i, list] of singles.entries()) for (const k of list) flowsOfClass[k].push(i);
    const breaks = this.questions.map(() => new Set<number>());
    const concerned = flowsOfClass.flatMap((flows, k) => (flows.length ? [k] : []));
    const [from, to] = [number, number + 1].map((n) => Math.floor((concerned.length * n) / of));
    for (const k of concerned.slice(from, to)) {
      const flows = flowsOfClass[k];
      if (this.tick()) break;
      const now = this.settle([k]);
      const touched: number[] = [];
      const outcomes: Outcome[] = [];
      for (const i of flows) {
        const settled = outcomeIn(now.world, this.questions[i], this.gateways);
        const elsewhere = settled.uncertain || !this.trips.tookWays(ways[i]);
        const outcome = now.flapping.length ? this.outcomeUnder(now, this.questions[i]) : settled;
        if (depth > 1 && !doesAsExpected(this.questions[i], outcome)) breaks[i].add(k);
        const alike = outcome.verdict === nominal[i].verdict && arrivesAlike(outcome, nominal[i]);
        if (alike && !elsewhere) continue;
        touched.push(i);
        outcomes.push(outcome);
      }
      if (touched.length) this.record(failures, { set: [k], flows: touched, outcomes, nominal });
    }
    if (depth > 1) {
      for (const [i, question] of this.questions.entries()) {
        if (doesAsExpected(question, nominal[i]))
          this.largerSets(failures, nominal, i, question, singles[i], breaks[i], depth);
      }
    }
    return nominal.map((outcome, i) => ({ nominal: outcome, failures: failures[i] }));
  }

  private tick(): boolean {
    this.covered++;
    if (this.progress?.(this.covered, this.found) === false) this.stopped = true;
    return this.stopped;
  }

  private largerSets(
    failures: F[][],
    nominal: readonly Outcome[],
    flow: number,
    question: Question,
    singles: readonly number[],
    breaking: ReadonlySet<number>,
    depth: number,
  ) {
    /** Minimal sets by the largest of their classes: a set holds one only if it has that one too. */
    const minimal = new Map<number, number[][]>();
    const holds = (set: readonly number[]) =>
      set.some((k) => minimal.get(k)?.some((found) => found.every((one) => set.includes(one))));
    let level = singles.filter((k) => !breaking.has(k)).map((k) => [k]);
    for (let size = 2; size <= depth; size++) {
      const seen = new Set<number>();
      const next: number[][] = [];
      for (const set of level) {
        for (const k of this.dependsOn(this.settle(set), question)) {
          if (breaking.has(k) || set.includes(k)) continue;
          const larger = withOne(set, k);
          const key = this.keyOf(larger);
          if (seen.has(key)) continue;
          seen.add(key);
          if (size > 2 && holds(larger)) continue;
          if (this.tick()) return;
          const outcome = this.outcomeUnder(this.settle(larger), question);
          if (doesAsExpected(question, outcome)) next.push(larger);
          else {
            addTo(minimal, larger[larger.length - 1], larger);
            this.record(failures, { set: larger, flows: [flow], outcomes: [outcome], nominal });
          }
        }
      }
      level = next;
    }
  }

  /** Classes whose failure can change the answer: those that touch the elements it depends on. */
  private dependsOn(settled: Settled, question: Question): number[] {
    const { world, flapping } = settled;
    const lists = (flapping.length ? flapping : [world]).flatMap((one) =>
      // If both members of a pair are active, the devices' beliefs were read in one of the possible worlds.
      variantsOf(one).map((variant) => this.touching.any(this.dependence.behind(one, question, variant))),
    );
    return lists.length === 1 ? lists[0] : [...new Set(lists.flat())].sort((a, b) => a - b);
  }

  /** A number for a set of at most three classes; there are far fewer than 2 to the 17. */
  private keyOf(set: readonly number[]): number {
    let key = 0;
    for (const k of set) key = key * (this.classes.length + 1) + k + 1;
    return key;
  }

  private settle(set: readonly number[]): Settled {
    const key = this.keyOf(set);
    const elements = set.map((k) => this.classes[k].element);
    // Larger sets build on single failures; to depth 1 each state is read only once.
    if (this.depth === 1) {
      if (this.last?.key === key) return this.last.settled;
      this.lent.takeBack();
      const settled = settle(this.engine, elements, this.lent.copy);
      this.last = { key, settled };
      return settled;
    }
    const kept = set.length > 1 ? this.larger : this.singles;
    const known = kept.get(key);
    if (known) return known;
    const settled = settle(this.engine, elements, sliced);
    if (this.larger.size >= this.mostKept) this.larger.clear();
    kept.set(key, settled);
    return settled;
  }

  /** The result of a flow; if watches flap, the worst of the alternating states. */
  private outcomeUnder(settled: Settled, question: Question): Outcome {
    const { world, flapping } = settled;
    const worlds = flapping.length ? flapping : [world];
    return worstOutcome(worlds.map((one) => outcomeIn(one, question, this.gateways)));
  }

  private record(failures: F[][], found: ClassFailure) {
    this.tell(found, (i, failure) => {
      this.found++;
      failures[i].push(failure);
    });
  }

  /** Every failure set of the classes that changes a flow's result. */
  untimed(
    { set, flows, outcomes, nominal }: ClassFailure,
    to: (flow: number, failure: FailureOutcome) => void,
  ) {
    const sets = this.setsOf(set);
    for (const [n, i] of flows.entries()) {
      if (sameOutcome(outcomes[n], nominal[i])) continue;
      for (const failed of sets) to(i, { failed, ...outcomes[n] });
    }
  }

  /** The same with the gap that each opens, and those that only open one. */
  timed({ set, flows, outcomes, nominal }: ClassFailure, to: (flow: number, failure: Failure) => void) {
    const settled = this.settle(set);
    const flapping = settled.flapping.length > 0;
    // A tunnel that leads into itself is known for one in the steady state alone (rule 2.5).
    const steadyAlone = flapping || settled.selfTunnels.size > 0;
    // An outage that ends broken lasts without limit (rule 10.2); only the others need a timeline.
    const run = flows.flatMap((_, n) =>
      outcomes[n].verdict === "works" || this.questions[flows[n]].mustBeDenied || flapping ? [n] : [],
    );
    const { world } = this.engine.healthy;
    const asked = new Outcomes(
      this.gateways,
      run.map((n) => this.questions[flows[n]]),
      world,
      (element) => this.classOf[element],
    );
    asked.learn(
      world,
      run.map((n) => nominal[flows[n]]),
    );
    if (!flapping)
      asked.learn(
        settled.world,
        run.map((n) => outcomes[n]),
      );
    const rates = run.map(() => 1);
    const place = new Map(run.map((n, at) => [n, at]));
    for (const members of this.setsOf(set)) {
      // Detection times can differ within a class: a device detects a failure of its own interface at once.
      const step = { atMs: 0, fail: members, restore: [] };
      const line = run.length ? timelineOf(this.engine, asked, rates, [step]) : null;
      for (const [n, i] of flows.entries()) {
        const at = place.get(n);
        const sessions = this.sessionsIn(settled, i, outcomes[n], flapping ? null : line, asked.keyOf);
        const timed = line && at !== undefined;
        const steady = outcomes[n];
        const outcome = timed && !steadyAlone ? this.ending(line, at, this.questions[i], steady) : steady;
        const outageMs = timed ? line.flows[at].outageMs : NO_END;
        const holds = sessions === null || sessions === "kept";
        if (sameOutcome(outcome, nominal[i]) && outageMs.max === 0 && holds) continue;
        to(i, { failed: members, ...outcome, outageMs, sessions });
      }
    }
  }

  /** What the `n`-th flow of a timeline comes to: where that rests on what came first, the worst end, uncertain (rule 10.1). */
  private ending({ longest, shortest }: Timeline, n: number, question: Question, settled: Outcome): Outcome {
    const runs = [longest, shortest].filter((run) => !run.waitsForEver);
    if (runs.length === 0) return settled;
    const endsSo = (run: Simulation) => {
      const last = run.spans[n].at(-1);
      return last !== undefined && sameOutcome(last, settled);
    };
    if (runs.every((run) => run.flapping || endsSo(run))) return settled;
    const ends = runs.map((run) => outcomeIn(run.end, question, this.gateways));
    const open = runs.some((run) => run.flapping) || !sameOutcome(ends[0], ends[ends.length - 1]);
    // Another order of events may end in the settled state instead.
    return open ? oneOf(ends) : { ...worstOutcome(ends), uncertain: true };
  }

  /** The result for established sessions over the whole outage, if its course is known (rule 18). */
  private sessionsIn(
    settled: Settled,
    i: number,
    { verdict }: Outcome,
    line: Timeline | null,
    keyOf: Outcomes["keyOf"],
  ): Failure["sessions"] {
    const before = this.nominalTrip(i);
    if (verdict !== "works" || before.verdict !== "works") return null;
    const breaking = line
      ? breakingInTime(before, this.questions[i], line.runs, keyOf)
      : breakingInAny(before, this.questions[i], worldsOf(settled));
    return breaking ?? "kept";
  }

  private nominalTrip(i: number): Trip {
    let trip = this.nominalTrips[i];
    if (!trip) {
      trip = walkBothWays(this.engine.healthy.world, this.questions[i]);
      this.nominalTrips[i] = trip;
    }
    return trip;
  }

  /** Every element set that a set of classes represents, each ascending. */
  private setsOf(set: readonly number[]): (readonly ElementNumber[])[] {
    if (set.length === 1) return this.classes[set[0]].members.map((element) => [element]);
    return product(set.map((k) => this.classes[k].members)).map((members) => members.sort((a, b) => a - b));
  }
}

/** An ascending set with one more in its place. */
function withOne(set: readonly number[], k: number): number[] {
  const larger: number[] = [];
  for (const one of set) {
    if (one > k && (larger.length === 0 || larger[larger.length - 1] < k)) larger.push(k);
    larger.push(one);
  }
  if (larger.length === set.length) larger.push(k);
  return larger;
}

function product(lists: readonly (readonly ElementNumber[])[]): ElementNumber[][] {
  return lists.reduce<ElementNumber[][]>(
    (sets, list) => sets.flatMap((set) => list.map((e) => [...set, e])),
    [[]],
  );
}
