import { isSafe } from "./harm.ts";
import { stepInto, type visitsOf } from "./order.ts";
import type { MidState, States } from "./states.ts";

type Visits = ReturnType<typeof visitsOf>;

/** Steps, or visits, of which every order is tried at most: each more doubles what there is to prove. */
const MAX_TOGETHER = 5;
/** States that proving may make, beyond those of the order itself. */
const MAX_STATES = 100;

/** Steps and visits whose order is free: runs of steps within a visit, and runs of visits, as positions. Each is
 * proven: every state that any order of them passes is safe. Runs of one are omitted. */
export interface AnyOrder {
  /** For each visit, runs of its steps. */
  readonly steps: readonly (readonly (readonly number[])[])[];
  /** Runs of visits; steps within a visit keep their order unless they form a run themselves. */
  readonly visits: readonly (readonly number[])[];
}

export function anyOrderOf(visits: Visits, states: States): AnyOrder {
  const prover = new Prover(states);
  const paths = visits.map(({ states: own }) => own);
  const steps = paths.map((own, v) => {
    const from = paths[v - 1]?.at(-1) ?? states.start;
    const numbers = own.map((state, n) => stepInto(state, own[n - 1] ?? from));
    return runsOf(numbers.length, (first, end) => {
      const start = own[first - 1] ?? from;
      return prover.anyOrder(
        start,
        numbers.slice(first, end).map((step) => [[step]]),
      );
    });
  });
  const ways = paths.map((own, v) => {
    const from = paths[v - 1]?.at(-1) ?? states.start;
    return waysOf(
      own.map((state, n) => stepInto(state, own[n - 1] ?? from)),
      steps[v],
    );
  });
  const runs = runsOf(visits.length, (first, end) =>
    prover.anyOrder(paths[first - 1]?.at(-1) ?? states.start, ways.slice(first, end)),
  );
  return { steps, visits: runs };
}

/** The sets of steps of a visit that may have been done while it is under way, and the whole: each a part of the next or beside it. */
function waysOf(numbers: readonly number[], runs: readonly (readonly number[])[]): number[][] {
  const sets: number[][] = [];
  let done: number[] = [];
  for (let n = 0; n < numbers.length; ) {
    const run = runs.find(([first]) => first === n);
    const block = numbers.slice(n, n + (run?.length ?? 1));
    for (let part = 1; part < 2 ** block.length; part++)
      sets.push([...done, ...block.filter((_, bit) => part & (2 ** bit))]);
    done = [...done, ...block];
    n += block.length;
  }
  return sets;
}

/** The longest runs of positions, one after the other, that hold; those of one are left out. */
function runsOf(count: number, holds: (first: number, end: number) => boolean): number[][] {
  const runs: number[][] = [];
  for (let first = 0; first < count; ) {
    let end = first + 1;
    while (end < count && end - first < MAX_TOGETHER && holds(first, end + 1)) end++;
    if (end - first > 1) runs.push(Array.from({ length: end - first }, (_, n) => first + n));
    first = end;
  }
  return runs;
}

class Prover {
  private readonly most: number;

  constructor(private readonly states: States) {
    this.most = states.made + MAX_STATES;
  }

  /**
   * Whether units can be done in any order from a state: `units` holds for each the sets of steps that it passes, the
   * last of them the whole of it. A state is some units done whole and one of them under way.
   */
  anyOrder(start: MidState, units: readonly (readonly (readonly number[])[])[]): boolean {
    const wholes = units.map((sets) => sets.at(-1) ?? []);
    for (let done = 0; done < 2 ** units.length; done++) {
      const base = wholes.flatMap((steps, u) => (done & (2 ** u) ? steps : []));
      for (const [u, sets] of units.entries()) {
        if (done & (2 ** u)) continue;
        for (const part of sets) if (!this.isSafeAfter(start, [...base, ...part])) return false;
      }
    }
    return true;
  }

  private isSafeAfter(start: MidState, steps: readonly number[]): boolean {
    let state: MidState | null = start;
    for (const step of steps) {
      if (this.states.made > this.most) return false;
      state = this.states.next(state, step);
      if (!state) return false;
    }
    return isSafe(state.harm) && state.harm.loops.length === 0;
  }
}
