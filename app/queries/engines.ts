import { LRUCache } from "lru-cache";
import type { Plan } from "../../core/plan/index.ts";
import { NetworkModel, type Scenario } from "../../core/scenario/index.ts";

const known = new LRUCache<string, Scenario>({ max: 8 });

/** The model of a revision; the latest few are kept. */
export function modelOf(plan: Plan, key: string): Scenario {
  return known.get(key) ?? keep(NetworkModel.compile(plan), key);
}

function keep(model: Scenario, key: string): Scenario {
  known.set(key, model);
  return model;
}

/** A revision made by an edit of another: what the edit left alone is taken over. */
export function modelAfter(before: Scenario, plan: Plan, key: string): Scenario {
  return keep(before.after(plan), key);
}

/** The cached model of a revision, if any. */
export function heldOf(key: string): Scenario | null {
  return known.get(key) ?? null;
}
