import { BytePool } from "../collections/index.ts";
import type { ElementNumber } from "../network/index.ts";
import { type Engine, type Settled, settle } from "../settle/index.ts";

/** Steady states of one generation and their buffers. */
class Age {
  readonly states = new Map<string, Settled>();
  readonly memory = new BytePool();
}

/** Steady states requested by checks, each settled once while kept. A caller may read a state until `most` others have
 * been settled after it; then its buffers are reused. */
export class SteadyStates {
  private young = new Age();
  private old = new Age();
  /** Not handed out again, but earlier callers may still read them. */
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
