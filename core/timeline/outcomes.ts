import type { ElementNumber } from "../network/index.ts";
import { outcomeIn } from "../settle/index.ts";
import type { FlowOutcome, GatewayRecord, Question, World } from "../walk/index.ts";

/** Results of flows per state: a state that recurs in a simulation is not walked again. `alike` maps elements whose
 * failure has the same effect to one number. */
export class Outcomes {
  private readonly known = new Map<string, readonly FlowOutcome[]>();

  constructor(
    readonly gateways: readonly GatewayRecord[],
    readonly questions: readonly Question[],
    private readonly healthy: World,
    private readonly alike: (element: ElementNumber) => number = (element) => element,
  ) {}

  /** One for each question, in their order. */
  in(world: World): readonly FlowOutcome[] {
    const key = this.keyOf(world);
    let outcomes = this.known.get(key);
    if (!outcomes) {
      outcomes = this.questions.map((question) => outcomeIn(world, question, this.gateways));
      this.known.set(key, outcomes);
    }
    return outcomes;
  }

  /** Adds the known results for a world. */
  learn(world: World, outcomes: readonly FlowOutcome[]) {
    this.known.set(this.keyOf(world), outcomes);
  }

  /** The key of a state: failed elements, and beliefs that differ from the healthy state. */
  readonly keyOf = (world: World): string => {
    if (world === this.healthy) return "";
    const { state } = world;
    const { state: before } = this.healthy;
    const failed = state.failed.map(this.alike).join();
    return [
      failed,
      changed(before.carrierUp, state.carrierUp),
      changed(before.roles.virtualActive, state.roles.virtualActive),
      changed(before.roles.pairActive, state.roles.pairActive),
      changed(before.watchUp, state.watchUp),
      changed(before.answers, state.answers),
      changed(before.forgotten ?? nothing, state.forgotten ?? nothing),
      changed(before.tunnelPasses, state.tunnelPasses),
    ].join("|");
  };
}

const nothing = new Uint8Array(0);

/** Whether two outcomes of a flow are equal. */
export function sameOutcome(a: FlowOutcome, b: FlowOutcome): boolean {
  return (
    a.verdict === b.verdict &&
    a.partly === b.partly &&
    a.uncertain === b.uncertain &&
    arrivesAlike(a, b) &&
    sameCarriers(a.carriers, b.carriers)
  );
}

/** Whether a flow that must be denied arrives in both outcomes or in neither; true for other flows. */
export function arrivesAlike(a: FlowOutcome, b: FlowOutcome): boolean {
  return (a.arrival === "arrives") === (b.arrival === "arrives");
}

/** Whether the same gateways carry, in the same order. */
function sameCarriers(a: readonly number[], b: readonly number[]): boolean {
  return a === b || (a.length === b.length && a.every((gateway, i) => gateway === b[i]));
}

function changed(before: Uint8Array, now: Uint8Array): string {
  if (before === now) return "";
  let text = "";
  for (let i = 0; i < now.length; i++) if (before[i] !== now[i]) text += `${i}=${now[i]} `;
  return text;
}
