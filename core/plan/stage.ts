/**
 * A plan in the middle of a change: after so many steps of a change's runbook. It has a number like a revision's, beside the
 * line of those, so that everything that can be asked of a revision can be asked of it.
 */
export interface Stage {
  /** The change's number within its plan, from 1. */
  readonly change: number;
  /** Steps done, over all visits; 0 is before the first. */
  readonly steps: number;
}

/** The numbers of stages begin here; no plan has so many revisions. */
const FIRST = 900_000_000;
/** Steps that a change may have, and one. */
const STEPS = 10_000;
const CHANGES = 100_000;

/** The most steps that a change can have, to be followed one by one. */
export const MOST_STEPS = STEPS - 1;

/** The revision number of a stage; null where there can be none. */
export function stageRevision({ change, steps }: Stage): number | null {
  const fits = change >= 1 && change < CHANGES && steps >= 0 && steps < STEPS;
  return fits && Number.isInteger(change) && Number.isInteger(steps) ? FIRST + change * STEPS + steps : null;
}

/** The stage that a revision number stands for; null for a revision of the line. */
export function stageOf(revision: number): Stage | null {
  if (revision < FIRST || revision >= FIRST + CHANGES * STEPS) return null;
  const number = revision - FIRST;
  return { change: Math.floor(number / STEPS), steps: number % STEPS };
}

/** What a revision is called: "revision 12", or "change 3 after step 4". */
export function revisionText(revision: number): string {
  const stage = stageOf(revision);
  if (!stage) return `revision ${revision}`;
  return stage.steps === 0
    ? `change ${stage.change} before step 1`
    : `change ${stage.change} after step ${stage.steps}`;
}
