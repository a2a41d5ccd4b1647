import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useRevalidator } from "react-router";

/** What the browser knows of a plan's head: enough to answer pages without asking the server. */
export interface Known {
  planId: string;
  /** The revision that is shown: the newest, unless the page's address pins another. */
  revision: number;
  newest: number;
  /** The revision that counts as approved; what differs from it is the draft. */
  approved: number;
  visitor: string;
  undo: string | null;
  redo: string | null;
}

const plans = new Map<string, Known>();

export function knownOf(planId: string): Known | undefined {
  return plans.get(planId);
}

export function keepKnown(known: Known) {
  const { planId, newest, approved, visitor, undo, redo } = known;
  plans.set(planId, { planId, revision: newest, newest, approved, visitor, undo, redo });
}

/** How often an open page looks whether somebody else has changed the plan. */
const LOOK_MS = 5000;

async function fetchHead(planId: string): Promise<Known> {
  const response = await fetch(`/plans/${planId}/head`);
  if (!response.ok) throw new Error(`the server does not tell where the plan stands (${response.status})`);
  return response.json();
}

/**
 * Keeps what the page was given, and fetches the plan anew when somebody else changes it. Where the server does not
 * answer, the page stays as it is; it looks again in a few seconds.
 */
export function useKnown(page: Known) {
  const { revalidate } = useRevalidator();
  const { planId } = page;
  const { data: head } = useQuery({
    queryKey: ["head", planId],
    queryFn: () => fetchHead(planId),
    staleTime: 0,
    refetchInterval: LOOK_MS,
    refetchOnWindowFocus: "always",
  });
  useEffect(() => {
    const held = plans.get(page.planId);
    if (!held || held.newest <= page.newest) keepKnown(page);
  }, [page]);
  useEffect(() => {
    const held = head && plans.get(head.planId);
    // What was asked before an edit of one's own was saved may come after it: the past is no news.
    if (!head || !held || head.newest < held.newest || sameHead(held, head)) return;
    keepKnown(head);
    revalidate();
  }, [head, revalidate]);
}

function sameHead(a: Known, b: Known): boolean {
  return a.newest === b.newest && a.approved === b.approved && a.undo === b.undo && a.redo === b.redo;
}
