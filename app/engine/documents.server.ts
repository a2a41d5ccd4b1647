import { type Plan, type Stage, stageOf, stepItem, ticksOf } from "../../core/plan/index.ts";
import { planAfter, planWith, type Runbook, stepCount } from "../../core/steps/index.ts";
import type { ReadablePlan } from "../../server/access/grants.ts";
import { type ChangeEvent, changeOf, keepStage } from "../../server/changes/changes.ts";
import { documentOf } from "../../server/plans.ts";

/** The document of a revision, or of a plan in the middle of a change, computed from the change's steps on first use.
 * Null if it does not exist. */
export async function documentAt(planId: ReadablePlan, revision: number): Promise<Plan | null> {
  const kept = await documentOf(planId, revision);
  const stage = stageOf(revision);
  if (kept || !stage) return kept;
  const change = await changeOf<Runbook>(planId, stage.change);
  if (!change) return null;
  const [base, draft] = await Promise.all([
    documentOf(planId, change.base),
    documentOf(planId, change.draft),
  ]);
  const plan = base && draft && planAt(stage, base, draft, change);
  if (plan) await keepStage(planId, revision, plan);
  return plan;
}

function planAt(
  { steps, byTicks }: Stage,
  base: Plan,
  draft: Plan,
  { runbook, events }: { runbook: Runbook; events: readonly ChangeEvent[] },
): Plan | null {
  if (!byTicks) return steps <= stepCount(runbook) ? planAfter(base, draft, runbook, steps) : null;
  const ticks = ticksOf(events);
  return steps <= ticks.length
    ? planWith(base, draft, runbook, doneBy(ticks.slice(0, steps), runbook))
    : null;
}

/** The positions of the steps that these ticks leave done, in the order of the ticks. */
function doneBy(ticks: readonly { item: string; done: boolean }[], { visits }: Runbook): number[] {
  const done = new Set<string>();
  for (const tick of ticks) {
    done.delete(tick.item);
    if (tick.done) done.add(tick.item);
  }
  const items = visits.flatMap(({ steps }, v) => steps.map((_, s) => stepItem(v, s)));
  return [...done].map((item) => items.indexOf(item)).filter((n) => n >= 0);
}
