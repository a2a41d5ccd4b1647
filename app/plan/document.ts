import { useEffect, useState } from "react";
import type { Plan } from "../../core/plan/index.ts";
import type { Known } from "./known.ts";

const held = new Map<string, Promise<Plan>>();

/** The document of the revision that a page shows; null until it is there. A revision never changes. */
export function usePlanDocument({ planId, revision }: Pick<Known, "planId" | "revision">): Plan | null {
  const [plan, setPlan] = useState<Plan | null>(null);
  useEffect(() => {
    let current = true;
    fetchDocument(planId, revision).then(
      (found) => current && setPlan(found),
      () => {},
    );
    return () => {
      current = false;
    };
  }, [planId, revision]);
  return plan;
}

export function fetchDocument(planId: string, revision: number): Promise<Plan> {
  const key = `/plans/${planId}/document?revision=${revision}`;
  let found = held.get(key);
  if (!found) {
    found = fetch(key).then((response) => {
      if (!response.ok) throw new Error("the plan could not be fetched");
      return response.json() as Promise<Plan>;
    });
    held.set(key, found);
    found.catch(() => held.delete(key));
    if (held.size > 4) held.delete(held.keys().next().value as string);
  }
  return found;
}
