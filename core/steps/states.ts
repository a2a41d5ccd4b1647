import type { Scenario } from "../scenario/index.ts";
import type { Draft } from "./atoms.ts";
import type { Harm, Judge } from "./harm.ts";
import { withoutPlace } from "./stages.ts";

/** A set of steps that have been done, by their positions. */
export type Done = readonly number[];

/** A state in the middle of a change: completed steps, the network, and disruptions. */
export interface MidState {
  readonly done: Done;
  readonly scenario: Scenario;
  readonly harm: Harm;
  /** The path of each watched flow, in the order of the judge. */
  readonly paths: readonly string[];
}

/** How many flows take another path in another state. */
export function movedBetween({ paths }: MidState, then: MidState): number {
  return paths.filter((path, n) => path !== then.paths[n]).length;
}

/** States that are kept; each is a network. */
const MAX_KEPT = 400;

/** The states that a draft passes, whatever the order: each is made of one that has a step less, and judged once. */
export class States {
  private readonly known = new Map<string, MidState | null>();
  /** Before the first step. */
  readonly start: MidState;
  /** How many states were made. */
  made = 0;

  constructor(
    before: Scenario,
    private readonly draft: Draft,
    private readonly judge: Judge,
  ) {
    this.start = { done: [], scenario: before, ...judge.judge(before, true) };
  }

  /** The state after one more step; null if the step refers to an item that does not exist yet. */
  next(from: MidState, step: number): MidState | null {
    const done = [...from.done, step].sort((a, b) => a - b);
    const key = done.join();
    const known = this.known.get(key);
    if (known !== undefined) return known;
    const made = this.make(from, step, done);
    if (this.known.size >= MAX_KEPT) this.known.clear();
    this.known.set(key, made);
    return made;
  }

  private make(from: MidState, step: number, done: Done): MidState | null {
    const outcome = from.scenario.afterEdit({
      label: "step",
      changes: [withoutPlace(this.draft.steps[step].change)],
    });
    if (!outcome.ok) return null;
    this.made++;
    const { scenario } = outcome;
    const whole = done.length === this.draft.steps.length;
    return { done, scenario, ...this.judge.judge(scenario, whole) };
  }
}
