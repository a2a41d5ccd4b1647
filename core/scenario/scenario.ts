import { LRUCache } from "lru-cache";
import { compile, findElement, formatElement, type Network } from "../network/index.ts";
import { applyEdit, type Edit, type Outage, type Plan, type PlanError } from "../plan/index.ts";
import { createEngine, type Engine, engineUnder, type Settled } from "../settle/index.ts";
import { firstFailure, Outcomes, type SimulationEvent, type Step, simulate } from "../timeline/index.ts";
import {
  type FlowQuestion,
  flowQuestions,
  type GatewayRecord,
  type Question,
  type Trip,
  type World,
  walkBothWays,
} from "../walk/index.ts";

/** Conditions that are remembered for each scenario: those of the page, and those of the case that is opened on it. */
const KEPT = 8;

/** An outage stopped in the middle, in its longest case; times in milliseconds from its first failure. */
export interface StoppedOutage {
  readonly scenario: Scenario;
  /** When something happens, ascending. */
  readonly stops: readonly number[];
  /** The latest events. */
  readonly happenings: readonly SimulationEvent[];
}

/** The network under conditions: failed elements, settled. Pages, command line, findings, sweep and tests all use it;
 * the same conditions on one network return the same scenario, so results are computed once. */
export class Scenario {
  private readonly remembered = new LRUCache<string, Scenario>({ max: KEPT });
  private walked: Map<string, Trip | null> | null = null;
  private readonly followed = new Map<string, Trip>();

  constructor(
    /** The plan as written. */
    readonly plan: Plan,
    /** The engine, with the failed elements as its base. */
    readonly engine: Engine,
  ) {}

  /** The plan compiled: typed columns. */
  get network(): Network {
    return this.engine.network;
  }

  /** The exits that distinguish flows. */
  get gateways(): readonly GatewayRecord[] {
    return this.engine.gateways;
  }

  /** The steady state, or the states that follow each other where watches flap (rule 9.5). */
  get settled(): Settled {
    return this.engine.healthy;
  }

  /** The steady state: tables, lookups and walks. */
  get world(): World {
    return this.settled.world;
  }

  /** References of the failed elements, such as link:north-ring. */
  get down(): string[] {
    return this.engine.base.map((element) => formatElement(this.network, element));
  }

  /** The same with more elements down, by their references; those that the plan does not have are passed over. */
  under(down: readonly string[]): Scenario {
    const elements = [...new Set(down.flatMap((ref) => findElement(this.network, ref) ?? []))].sort(
      (a, b) => a - b,
    );
    if (elements.length === 0) return this;
    const key = elements.join(" ");
    const found = this.remembered.get(key) ?? new Scenario(this.plan, engineUnder(this.engine, elements));
    this.remembered.set(key, found);
    return found;
  }

  /** This network in the middle of an outage, `atMs` after its first failure; before that, all is as it was (rule 10.2). */
  at(steps: Outage["steps"], atMs: number): StoppedOutage {
    const { engine, gateways, world } = this;
    const questions = this.flows().map(({ question }) => question);
    const numbered = this.stepsOf(steps);
    const run = simulate(engine, new Outcomes(gateways, questions, world), numbered, "max");
    const start = firstFailure(numbered);
    const stops = [...new Set(run.events.map((event) => event.atMs - start))];
    const last = stops.findLast((stop) => stop <= atMs);
    const reached = run.moments.findLast((moment) => moment.atMs - start <= atMs)?.world;
    const settled: Settled = { world: reached ?? world, flapping: [], selfTunnels: new Set() };
    return {
      scenario: reached ? new Scenario(this.plan, { ...engine, healthy: settled }) : this,
      stops,
      happenings: run.events.filter((event) => event.atMs - start === last).map(({ what }) => what),
    };
  }

  /** An outage's steps with the elements that this network has, in the order of time. */
  stepsOf(steps: Outage["steps"]): Step[] {
    const elements = (refs: readonly string[] = []) =>
      refs.flatMap((ref) => findElement(this.network, ref) ?? []);
    return steps
      .map((step) => ({
        atMs: step.atMs,
        fail: elements(step.fail),
        shut: elements(step.shut),
        restore: elements(step.restore),
      }))
      .sort((a, b) => a.atMs - b.atMs);
  }

  /** Another plan under the same conditions; what the two have in common is not compiled anew. */
  after(plan: Plan): Scenario {
    return new Scenario(plan, createEngine(compile(plan, this.network), this.engine)).under(this.down);
  }

  /** The same for an edit; the reasons where it does not fit. */
  afterEdit(edit: Edit): { ok: true; scenario: Scenario } | { ok: false; errors: PlanError[] } {
    const outcome = applyEdit(this.plan, edit);
    return outcome.ok ? { ok: true, scenario: this.after(outcome.plan) } : outcome;
  }

  /** The plan's flows as questions; one that cannot be asked, such as one to a device without address, is left out. */
  flows(): readonly FlowQuestion[] {
    return flowQuestions(this.network);
  }

  /** A packet and its reply, followed over every equal-cost way (rules 6 and 7). */
  trace(question: Question): Trip {
    return walkBothWays(this.world, question);
  }

  /** The trips of the plan's flows by id, null for an invalid flow; computed once. */
  trips(): ReadonlyMap<string, Trip | null> {
    if (!this.walked) {
      const asked = new Map(this.flows().map(({ flow, question }) => [flow.id, question]));
      this.walked = new Map(
        this.plan.flows.map(({ id }) => {
          const question = asked.get(id);
          return [id, question ? this.trip(id, question) : null];
        }),
      );
    }
    return this.walked;
  }

  /** The trip of one of the plan's flows, computed once. */
  trip(flow: string, question: Question): Trip {
    const known = this.followed.get(flow);
    if (known) return known;
    const trip = this.trace(question);
    this.followed.set(flow, trip);
    return trip;
  }
}

/** A plan made ready for questions: compiled and settled with nothing down. */
export class NetworkModel extends Scenario {
  static compile(plan: Plan): NetworkModel {
    return new NetworkModel(plan, createEngine(compile(plan)));
  }
}
