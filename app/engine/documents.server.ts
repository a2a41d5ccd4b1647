import { type Plan, stageOf } from "../../core/plan/index.ts";
import { planAfter, type Runbook, stepCount } from "../../core/steps/index.ts";
import type { ReadablePlan } from "../../server/access/grants.ts";
import { changeOf, keepStage } from "../../server/changes/changes.ts";
import { documentOf } from "../../server/plans.ts";

/**
 * The document of a revision, and of a plan in the middle of a change: that one is made of the change's steps when it is
 * first asked for. Null where there is none.
 */
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
  const steps = stepCount(change.runbook);
  const plan =
    base && draft && stage.steps <= steps ? planAfter(base, draft, change.runbook, stage.steps) : null;
  if (plan) await keepStage(planId, revision, plan);
  return plan;
}
