import { type Engine, type Settled, settle } from "../convergence/index.ts";
import { type ElementNumber, LentBytes } from "../network/index.ts";

/** Steady states of one age. */
interface Age {
  readonly states: Map<string, Settled>;
  /** What they are written in. */
  readonly memory: LentBytes;
}

const newAge = (): Age => ({ states: new Map(), memory: new LentBytes() });

/**
 * The steady states that checks ask for, each settled once as long as it is kept. A state may be looked at until `most`
 * others have been settled after it: then what it is written in goes to later ones.
 */
export class SteadyStates {
  private young = newAge();
  private old = newAge();

  constructor(
    private readonly engine: Engine,
    private readonly most = 1024,
  ) {}

  /** The steady state under a set of failed elements. */
  under(failed: readonly ElementNumber[]): Settled {
    const key = failed.join();
    const known = this.young.states.get(key) ?? this.old.states.get(key);
    if (known) return known;
    if (this.young.states.size >= this.most) this.age();
    const settled = settle(this.engine, failed, this.young.memory.copy);
    this.young.states.set(key, settled);
    return settled;
  }

  /** What is young becomes old; what was old goes. */
  private age() {
    [this.young, this.old] = [this.old, this.young];
    this.young.states.clear();
    this.young.memory.takeBack();
  }
}
