import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { RehearsalRun } from "../../../server/rehearsals.ts";
import type { RehearsalAsked } from "../../routes/rehearsals.ts";

const LOOK_EVERY_MS = 1000;

const isOpen = (run: RehearsalRun | null | undefined) => run?.state === "waiting" || run?.state === "running";

/** The latest rehearsal of what a page shows, followed while it is under way; asks for one, and ends it. */
export function useRehearsal(planId: string, asked: RehearsalAsked | null) {
  const client = useQueryClient();
  const address = `/plans/${planId}/rehearsals`;
  const queryKey = ["rehearsal", planId, asked];
  const { data, error } = useQuery({
    queryKey,
    enabled: asked !== null,
    queryFn: async ({ signal }) => {
      const response = await fetch(`${address}?of=${encodeURIComponent(JSON.stringify(asked))}`, { signal });
      if (!response.ok) throw new Error(`the rehearsal could not be loaded (${response.status})`);
      return ((await response.json()) as { run: RehearsalRun | null }).run;
    },
    refetchInterval: ({ state }) => (isOpen(state.data) ? LOOK_EVERY_MS : false),
  });
  const posting = useMutation({
    mutationFn: async (body: RehearsalAsked | { cancel: string }) => {
      const response = await fetch(address, {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify(body),
      });
      const answer = (await response.json().catch(() => null)) as { error?: string } | null;
      if (!response.ok)
        throw new Error(answer?.error ?? `the server rejected the rehearsal (${response.status})`);
    },
    onSettled: () => client.invalidateQueries({ queryKey }),
  });
  const run = data ?? null;
  return {
    run,
    open: isOpen(run),
    busy: posting.isPending,
    error: (posting.error ?? error)?.message ?? "",
    ask: () => asked && posting.mutate(asked),
    cancel: () => run && posting.mutate({ cancel: run.id }),
  };
}
