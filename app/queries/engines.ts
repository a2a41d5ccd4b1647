import { type Standing, standingAfter, standingOf } from "../../core/effect/index.ts";
import type { Plan } from "../../core/plan/index.ts";

/** A plan made ready for questions. */
export interface Prepared extends Standing {
  readonly plan: Plan;
}

const KEPT = 8;
const known = new Map<string, Prepared>();

/** The prepared plan of a revision; the latest few are kept. */
export function prepare(plan: Plan, key: string): Prepared {
  const held = known.get(key);
  if (held) {
    known.delete(key);
    known.set(key, held);
    return held;
  }
  return keep({ plan, ...standingOf(plan) }, key);
}

function keep(prepared: Prepared, key: string): Prepared {
  known.set(key, prepared);
  if (known.size > KEPT) known.delete(known.keys().next().value as string);
  return prepared;
}

/** A revision made by an edit of another: what the edit left alone is taken over. */
export function prepareAfter(before: Prepared, plan: Plan, key: string): Prepared {
  return keep({ plan, ...standingAfter(before, plan) }, key);
}

/** The prepared plan of a revision where it is still kept. */
export function heldOf(key: string): Prepared | null {
  return known.get(key) ?? null;
}
