import { errorsOfIssues, MAX_ERRORS, type PlanError } from "./errors.ts";
import { type Plan, planSchema } from "./plan.ts";
import { checkReferences } from "./references.ts";

export type Reading = { ok: true; plan: Plan } | { ok: false; errors: PlanError[] };

/**
 * Checks a document, as JSON or YAML gave it, and makes a Plan of it. References are looked at only
 * where the shape is right. At most `MAX_ERRORS` errors are told, each with its path.
 */
export function readPlan(document: unknown): Reading {
  if (typeof document !== "object" || document === null || Array.isArray(document)) {
    return {
      ok: false,
      errors: [
        { path: "", message: "this is not a plan: it must be a group of keys that starts with ironFork: 1" },
      ],
    };
  }
  if (!("ironFork" in document)) {
    return {
      ok: false,
      errors: [{ path: "ironFork", message: "is missing; a plan says ironFork: 1, its version" }],
    };
  }
  const parsed = planSchema.safeParse(document, { reportInput: true });
  if (!parsed.success) return { ok: false, errors: errorsOfIssues(parsed.error.issues).slice(0, MAX_ERRORS) };
  const errors = checkReferences(parsed.data);
  return errors.length ? { ok: false, errors: errors.slice(0, MAX_ERRORS) } : { ok: true, plan: parsed.data };
}
