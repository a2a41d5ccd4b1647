import { useQuery } from "@tanstack/react-query";
import type { Drawing } from "../../drawing/types.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { MapAnswer } from "../../queries/map.ts";

interface Whole {
  readonly answer: MapAnswer;
  /** null until it is there. */
  readonly drawing: Drawing | null;
}

/** The map with all that stands on it; where the first page of a large plan came without, it is fetched. */
export function useWholeMap(given: Whole): { whole: Whole; error: string; retry: () => void } {
  const { page, params } = usePlan();
  const { planId, revision } = page;
  const search = params.toString();
  const { data, error, refetch } = useQuery({
    queryKey: ["map", planId, revision, search],
    enabled: given.drawing === null,
    queryFn: async (): Promise<Whole> => {
      const response = await fetch(`/plans/${planId}/map-data?${search}`);
      if (!response.ok) throw new Error(`the map could not be loaded (${response.status})`);
      return response.json();
    },
  });
  const whole = given.drawing === null && data ? data : given;
  return { whole, error: error?.message ?? "", retry: () => void refetch() };
}
