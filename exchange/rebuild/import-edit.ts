import { differencePlans, type Edit, type Plan, type PlanError } from "../../core/plan/index.ts";
import type { Readings } from "../readings.ts";
import { mergeInto } from "./merge.ts";
import type { RebuiltPlan } from "./plan.ts";

/** The most devices named in an edit's label; beyond that it counts them. */
const MAX_NAMED = 3;

/** The edit that merges readings into a plan; null if nothing would change. */
export type ImportOutcome = { ok: true; edit: Edit | null } | { ok: false; errors: PlanError[] };

export function takeReadings(plan: Plan, { devices }: Readings, rebuilt: RebuiltPlan): ImportOutcome {
  const merged = mergeInto(plan, rebuilt);
  if (!merged.ok) return merged;
  const changes = differencePlans(plan, merged.plan);
  if (changes.length === 0) return { ok: true, edit: null };
  const names = devices.map(({ facts }) => facts.device);
  const who = names.length > MAX_NAMED ? `${names.length} devices` : names.join(", ") || "a list";
  return { ok: true, edit: { label: `Import ${who}`.slice(0, 300), changes } };
}
