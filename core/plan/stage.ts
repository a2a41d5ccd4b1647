/**
 * A plan in the middle of a change: after a number of steps of its runbook, or with the ticked steps. It has a number like a revision's, beside the
 * line of those, so that everything that can be asked of a revision can be asked of it.
 */
export interface Stage {
  /** The change's number within its plan, from 1. */
  readonly change: number;
  /** Steps done, over all visits; 0 is before the first. With `byTicks`, how often a step was ticked or unticked. */
  readonly steps: number;
  /** Whether the steps are those that were ticked by then, in whatever order. */
  readonly byTicks?: true;
}

/** First number of stages, above the revision numbers of any plan. */
const FIRST = 900_000_000;
/** Stages of one change: its steps, and after them its ticks. */
const STEPS = 10_000;
const TICKS_FROM = 5000;
const CHANGES = 100_000;

/** The most steps that a change can have, to be followed one by one. */
export const MAX_STEPS = TICKS_FROM - 1;

/** The revision number of a stage; null where there can be none. */
export function stageRevision({ change, steps, byTicks }: Stage): number | null {
  const fits = change >= 1 && change < CHANGES && steps >= 0 && steps < TICKS_FROM;
  if (!fits || !Number.isInteger(change) || !Number.isInteger(steps)) return null;
  return FIRST + change * STEPS + (byTicks ? TICKS_FROM : 0) + steps;
}

/** The stage that a revision number encodes; null for an ordinary revision. */
export function stageOf(revision: number): Stage | null {
  if (revision < FIRST || revision >= FIRST + CHANGES * STEPS) return null;
  const number = revision - FIRST;
  const [change, steps] = [Math.floor(number / STEPS), number % STEPS];
  return steps < TICKS_FROM ? { change, steps } : { change, steps: steps - TICKS_FROM, byTicks: true };
}

/** What a revision is called: "revision 12", or "change 3 after step 4". */
export function revisionText(revision: number): string {
  const stage = stageOf(revision);
  if (!stage) return `revision ${revision}`;
  if (stage.byTicks) return `change ${stage.change} with the steps done so far`;
  return stage.steps === 0
    ? `change ${stage.change} before step 1`
    : `change ${stage.change} after step ${stage.steps}`;
}
