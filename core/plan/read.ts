import { errorsOfIssues, MAX_ERRORS, type PlanError, pathText } from "./errors.ts";
import { beyondLimits, LIMITS } from "./limits.ts";
import { withoutPlainRoutes } from "./plain-routes.ts";
import { type Plan, planSchema } from "./plan.ts";
import { checkReferences } from "./references.ts";
import { isDeeperThan, malformedText } from "./text.ts";

export type Reading = { ok: true; plan: Plan } | { ok: false; errors: PlanError[] };

/** Checks a parsed JSON or YAML document and makes a Plan of it. References are only checked if the shape is valid.
 * Returns at most `MAX_ERRORS` errors, each with its path. */
export function readPlan(document: unknown): Reading {
  if (typeof document !== "object" || document === null || Array.isArray(document)) {
    return {
      ok: false,
      errors: [{ path: "", message: "this is not a plan: it must be an object that contains `ironFork: 1`" }],
    };
  }
  if (!("ironFork" in document)) {
    return {
      ok: false,
      errors: [{ path: "ironFork", message: "is missing; a plan contains its version, `ironFork: 1`" }],
    };
  }
  if (isDeeperThan(document, LIMITS.depth)) {
    const message = `this is not a plan: its objects and lists are nested deeper than ${LIMITS.depth}`;
    return { ok: false, errors: [{ path: "", message }] };
  }
  const malformed = malformedText(document);
  if (malformed) {
    const message = "contains a zero byte or half a character; write it again";
    return { ok: false, errors: [{ path: pathText(malformed), message }] };
  }
  const plain = withoutPlainRoutes<Plan>(document);
  const parsed = planSchema.safeParse(plain.document, { reportInput: true });
  if (!parsed.success) return { ok: false, errors: errorsOfIssues(parsed.error.issues).slice(0, MAX_ERRORS) };
  const plan = plain.restore(parsed.data);
  const large = beyondLimits(plan);
  if (large.length) return { ok: false, errors: large };
  const errors = checkReferences(plan);
  return errors.length ? { ok: false, errors: errors.slice(0, MAX_ERRORS) } : { ok: true, plan };
}
