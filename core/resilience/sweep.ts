import { type Engine, type Settled, settle, worldsOf } from "../convergence/index.ts";
import {
  type FlatTrips,
  flatTrips,
  type GatewayRecord,
  type Outcome,
  type Question,
  verdictRank,
  walkBothWays,
} from "../forwarding/index.ts";
import { type ElementNumber, elementCount } from "../network/index.ts";
import { Outcomes, type Range, sameCarriers, timelineOf } from "../outage/index.ts";
import { Dependence } from "./dependence.ts";
import { type EffectClass, effectClasses, Touching } from "./effects.ts";

export interface Failure extends Outcome {
  /** The failed elements, ascending. */
  readonly failed: readonly ElementNumber[];
  readonly outageMs: Range;
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

/**
 * Fails every element, and to depth 2 or 3 every set that can matter, and tells what becomes of each flow
 * (rule 10.4). Only elements that a flow depends on are tried: what its walks, and the probes and tunnels
 * of the devices on them, never visit cannot change it. The sets found are all the minimal ones.
 */
export function sweep(
  engine: Engine,
  gateways: readonly GatewayRecord[],
  questions: readonly Question[],
  depth: 1 | 2 | 3,
  progress?: Progress,
): FlowSweep[] {
  return new Sweeper(engine, gateways, questions, depth, progress).run();
}

/** Steady states that are kept: those of larger sets are let go when there are too many. */
const MAX_KEPT = 2048;

const NO_END: Range = { min: null, max: null };

class Sweeper {
  private readonly classes: EffectClass[];
  private readonly classOf: Int32Array;
  private readonly touching: Touching;
  private readonly dependence: Dependence;
  private readonly trips: FlatTrips;
  private readonly singles = new Map<string, Settled>();
  private readonly larger = new Map<string, Settled>();
  private covered = 0;
  private found = 0;
  private stopped = false;

  constructor(
    private readonly engine: Engine,
    private readonly gateways: readonly GatewayRecord[],
    private readonly questions: readonly Question[],
    private readonly depth: 1 | 2 | 3,
    private readonly progress?: Progress,
  ) {
    this.classes = effectClasses(engine.network);
    this.classOf = new Int32Array(elementCount(engine.network));
    for (const [k, { members }] of this.classes.entries())
      for (const element of members) this.classOf[element] = k;
    this.touching = new Touching(engine.network, this.classes);
    this.dependence = new Dependence(engine.network);
    this.trips = flatTrips(engine.network);
  }

  run(): FlowSweep[] {
    const { depth } = this;
    const { world } = this.engine.healthy;
    const ways: Int32Array[] = [];
    const nominal = this.questions.map((question, i) => {
      const outcome = this.trips.outcome(world, question, this.gateways);
      ways[i] = this.trips.ways();
      return outcome;
    });
    const singles = this.questions.map((question) => this.dependsOn(this.engine.healthy, question));
    const failures = this.questions.map((): Failure[] => []);

    // One failure after the other, each settled once for all the flows that it can matter to.
    const flowsOfClass = this.classes.map((): number[] => []);
    for (const [i, list] of singles.entries()) for (const k of list) flowsOfClass[k].push(i);
    const breaks = this.questions.map(() => new Set<number>());
    for (const [k, flows] of flowsOfClass.entries()) {
      if (flows.length === 0) continue;
      if (this.tick()) break;
      const now = this.settle([k]);
      const touched = new Map<number, Outcome>();
      for (const i of flows) {
        const settled = this.trips.outcome(now.world, this.questions[i], this.gateways);
        const elsewhere = !this.trips.tookWays(ways[i]);
        const outcome = now.flapping.length ? this.outcomeUnder(now, this.questions[i]) : settled;
        if (outcome.verdict !== "works") breaks[i].add(k);
        if (outcome.verdict !== nominal[i].verdict || elsewhere) touched.set(i, outcome);
      }
      if (touched.size) this.record(failures, nominal, [k], touched);
    }
    if (depth > 1) {
      for (const [i, question] of this.questions.entries()) {
        if (nominal[i].verdict === "works")
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
    failures: Failure[][],
    nominal: readonly Outcome[],
    flow: number,
    question: Question,
    singles: readonly number[],
    breaking: ReadonlySet<number>,
    depth: number,
  ) {
    const minimal: number[][] = [];
    const holds = (set: readonly number[]) => minimal.some((found) => found.every((k) => set.includes(k)));
    let level = singles.filter((k) => !breaking.has(k)).map((k) => [k]);
    for (let size = 2; size <= depth; size++) {
      const seen = new Set<string>();
      const next: number[][] = [];
      for (const set of level) {
        for (const k of this.dependsOn(this.settle(set), question)) {
          if (breaking.has(k) || set.includes(k)) continue;
          const larger = [...set, k].sort((a, b) => a - b);
          const key = larger.join();
          if (seen.has(key)) continue;
          seen.add(key);
          if (size > 2 && holds(larger)) continue;
          if (this.tick()) return;
          const outcome = this.outcomeUnder(this.settle(larger), question);
          if (outcome.verdict === "works") next.push(larger);
          else {
            minimal.push(larger);
            this.record(failures, nominal, larger, new Map([[flow, outcome]]));
          }
        }
      }
      level = next;
    }
  }

  /** Classes whose failure could change the answer: those that touch what it rests on. */
  private dependsOn(settled: Settled, question: Question): number[] {
    const worlds = worldsOf(settled);
    const lists = worlds.map((world) =>
      this.touching.any(this.dependence.behind(world, question, walkBothWays(world, question))),
    );
    return lists.length === 1 ? lists[0] : [...new Set(lists.flat())].sort((a, b) => a - b);
  }

  private settle(set: readonly number[]): Settled {
    const kept = set.length > 1 ? this.larger : this.singles;
    const key = set.join();
    let settled = kept.get(key);
    if (!settled) {
      settled = settle(
        this.engine,
        set.map((k) => this.classes[k].element),
      );
      if (this.larger.size >= MAX_KEPT) this.larger.clear();
      // Larger sets build on single failures; where none are asked for, each is looked at once.
      if (this.depth === 1) kept.clear();
      kept.set(key, settled);
    }
    return settled;
  }

  /** What becomes of a flow; where watches flap, the worst of the states that follow each other. */
  private outcomeUnder(settled: Settled, question: Question): Outcome {
    return worldsOf(settled)
      .map((world) => this.trips.outcome(world, question, this.gateways))
      .reduce((a, b) => (verdictRank[b.verdict] < verdictRank[a.verdict] ? b : a));
  }

  /** Every set that the classes stand for, with the gap that it opens. */
  private record(
    failures: Failure[][],
    nominal: readonly Outcome[],
    set: readonly number[],
    touched: ReadonlyMap<number, Outcome>,
  ) {
    const settled = this.settle(set);
    const flapping = settled.flapping.length > 0;
    // What ends not working is out without end (rule 10.2); only the rest needs to be run through.
    const ends = ({ verdict }: Outcome) => verdict === "works" || flapping;
    const flows = [...touched.keys()].filter((i) => ends(touched.get(i) as Outcome));
    const { world } = this.engine.healthy;
    const asked = new Outcomes(
      this.gateways,
      flows.map((i) => this.questions[i]),
      world,
      (element) => this.classOf[element],
    );
    asked.learn(
      world,
      flows.map((i) => nominal[i]),
    );
    if (!flapping)
      asked.learn(
        settled.world,
        flows.map((i) => touched.get(i) as Outcome),
      );
    const rates = flows.map(() => 1);
    for (const members of product(set.map((k) => this.classes[k].members))) {
      // How long it takes to notice can differ within a class: a device knows at once of its own interface.
      const step = { atMs: 0, fail: members, restore: [] };
      const gaps = flows.length ? timelineOf(this.engine, asked, rates, [step]).flows : [];
      const gapOf = new Map(flows.map((i, n) => [i, gaps[n].outageMs]));
      for (const [i, outcome] of touched) {
        const outageMs = gapOf.get(i) ?? NO_END;
        const changed =
          outcome.verdict !== nominal[i].verdict || !sameCarriers(outcome.carriers, nominal[i].carriers);
        if (!changed && outageMs.max === 0) continue;
        this.found++;
        failures[i].push({ failed: [...members].sort((a, b) => a - b), ...outcome, outageMs });
      }
    }
  }
}

function product(lists: readonly (readonly ElementNumber[])[]): ElementNumber[][] {
  return lists.reduce<ElementNumber[][]>(
    (sets, list) => sets.flatMap((set) => list.map((e) => [...set, e])),
    [[]],
  );
}
