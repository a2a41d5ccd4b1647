import { LentBytes } from "../collections/index.ts";
import type { ElementNumber } from "../network/index.ts";
import { type Engine, type Settled, settle } from "../settle/index.ts";

/** Steady states of one age, and what they are written in. */
class Age {
  readonly states = new Map<string, Settled>();
  readonly memory = new LentBytes();
}

/**
 * The steady states that checks ask for, each settled once as long as it is kept. Whoever asks for one may look at it until
 * `most` others have been settled after that: then what it is written in goes to later ones.
 */
export class SteadyStates {
  private young = new Age();
  private old = new Age();
  /** Told to nobody any more, but those who have them may still look at them. */
  private leaving = new Age();

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

  private age() {
    [this.young, this.old, this.leaving] = [this.leaving, this.young, this.old];
    this.young.states.clear();
    this.young.memory.takeBack();
  }
}
