import { type QueryClient, useQuery } from "@tanstack/react-query";
import type { Plan } from "../../core/plan/index.ts";
import type { PlanHead } from "./head.ts";

type Of = Pick<PlanHead, "planId" | "revision">;

function documentQuery({ planId, revision }: Of) {
  return {
    queryKey: ["document", planId, revision],
    queryFn: async (): Promise<Plan> => {
      const response = await fetch(`/plans/${planId}/document?revision=${revision}`);
      if (!response.ok) throw new Error(`the plan could not be loaded (${response.status})`);
      return response.json();
    },
  };
}

/** The document of the revision that a page shows; null until it is there, with the reason where it does not come. */
export function usePlanDocument(of: Of): { plan: Plan | null; error: string; retry: () => void } {
  const { data, error, refetch } = useQuery(documentQuery(of));
  return { plan: data ?? null, error: error?.message ?? "", retry: () => void refetch() };
}

/** The same as a single request. */
export function fetchDocument(cache: QueryClient, of: Of): Promise<Plan> {
  return cache.ensureQueryData(documentQuery(of));
}

/** Keeps a revision's document that an edit has made out of another one. */
export function keepDocument(cache: QueryClient, of: Of, change: (before: Plan) => Plan | null, to: number) {
  const before = cache.getQueryData<Plan>(documentQuery(of).queryKey);
  const after = before && change(before);
  if (after) cache.setQueryData(documentQuery({ planId: of.planId, revision: to }).queryKey, after);
}
