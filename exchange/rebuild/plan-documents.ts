import {
  type Collection,
  type Plan,
  type PlanCollectionName,
  type PlanError,
  planCollections,
  sameValue,
} from "../../core/plan/index.ts";

/** A plan document in the input. */
export interface PlanInput {
  readonly file: string;
  readonly plan: Plan;
}

export type Merging = { [name in PlanCollectionName]?: object[] } & Record<string, unknown>;

/** Merges plan documents with each other and with the readings: the first version of each item has precedence, and
 * conflicting later ones are reported. */
export function withPlans<D extends Merging>(
  document: D,
  plans: readonly PlanInput[],
): { document: D; conflicts: PlanError[] } {
  const conflicts: PlanError[] = [];
  let merged = document;
  for (const { file, plan } of plans) merged = withPlan(merged, plan, file, conflicts);
  return { document: merged, conflicts };
}

function withPlan<D extends Merging>(document: D, plan: Plan, file: string, conflicts: PlanError[]): D {
  const collections: Readonly<Record<string, Collection>> = planCollections;
  const lists = Object.entries(collections).map(([name, { key, noun }]) => {
    const own = document[name as PlanCollectionName] ?? [];
    const known = new Map(own.map((item) => [key(item), item]));
    const added: object[] = [];
    for (const item of plan[name as PlanCollectionName]) {
      const before = known.get(key(item));
      if (before === undefined) added.push(item);
      else if (!sameValue(before, item))
        conflicts.push({
          path: `${name} ${key(item)}`,
          message: `the ${noun} differs in ${file}; the first one is kept`,
        });
    }
    return [name, [...own, ...added]];
  });
  return { ...document, ...Object.fromEntries(lists) };
}

/** Whether a text is a plan document, as far as its beginning tells. */
export function isPlanDocument(text: string): boolean {
  const start = text.slice(0, 4000);
  return /^\s*\{[\s\S]*?"ironFork"\s*:/.test(start) || /^["']?ironFork["']?\s*:/m.test(start);
}
