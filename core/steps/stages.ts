import { applyEdit, type Change, type EditOutcome, type Plan } from "../plan/index.ts";
import { draftOf } from "./atoms.ts";

/** The neighbors in the list are unknown until all of them exist. */
export function withoutPlace(change: Change): Change {
  if (!("index" in change)) return change;
  const { index: _index, ...rest } = change;
  return rest as Change;
}

/** A plan with all that a change alters on paper alone, as far as it fits: no device notices it. */
export function onPaper(plan: Plan, paper: readonly Change[]): Plan {
  let now = plan;
  for (const change of paper) {
    const outcome = applyEdit(now, { label: "on paper", changes: [change] });
    if (outcome.ok) now = outcome.plan;
  }
  return now;
}

/** Of a runbook, the steps in their order. */
interface Stepped {
  readonly visits: readonly { readonly steps: readonly { readonly do: Change }[] }[];
}

/** How many steps a runbook has, over all visits. */
export function stepCount({
  visits,
}: {
  readonly visits: readonly { readonly steps: readonly unknown[] }[];
}): number {
  return visits.reduce((sum, { steps }) => sum + steps.length, 0);
}

/**
 * The plans that a change passes, after each of its steps in turn; the last is the plan after. null from where the
 * runbook is of other plans.
 */
export function* plansOf(before: Plan, after: Plan, { visits }: Stepped): Generator<Plan | null> {
  const all = visits.flatMap((visit) => visit.steps);
  let plan: Plan | null = onPaper(before, draftOf(before, after).paper);
  for (const { do: change } of all.slice(0, -1)) {
    const outcome: EditOutcome | null =
      plan && applyEdit(plan, { label: "step", changes: [withoutPlace(change)] });
    plan = outcome?.ok ? outcome.plan : null;
    yield plan;
  }
  if (all.length > 0) yield after;
}

/**
 * The plan with some steps of a change's runbook done, in whatever order: positions of the steps, counted over all visits. What
 * cannot be done yet, since it names what another of them adds, is done after it. Null where that does not help.
 */
export function planWith(
  before: Plan,
  after: Plan,
  { visits }: Stepped,
  done: readonly number[],
): Plan | null {
  const all = visits.flatMap((visit) => visit.steps);
  if (all.every((_, n) => done.includes(n))) return after;
  if (done.length === 0) return before;
  let plan = onPaper(before, draftOf(before, after).paper);
  let open = done.flatMap((n) => (all[n] ? [all[n].do] : []));
  while (open.length > 0) {
    const left: Change[] = [];
    for (const change of open) {
      const outcome = applyEdit(plan, { label: "step", changes: [withoutPlace(change)] });
      if (outcome.ok) plan = outcome.plan;
      else left.push(change);
    }
    if (left.length === open.length) return null;
    open = left;
  }
  return plan;
}

/** The plan in the middle of a change: after `steps` steps of its runbook, counted over all visits. 0 is the plan
 * before, all steps the plan after. Null if the runbook belongs to other plans. */
export function planAfter(before: Plan, after: Plan, runbook: Stepped, steps: number): Plan | null {
  return planWith(
    before,
    after,
    runbook,
    Array.from({ length: Math.min(steps, stepCount(runbook)) }, (_, n) => n),
  );
}
