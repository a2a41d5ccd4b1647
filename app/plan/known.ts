import { useEffect } from "react";
import { useFetcher, useRevalidator } from "react-router";

/** What the browser knows of a plan's head: enough to answer pages without asking the server. */
export interface Known {
  planId: string;
  revision: number;
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
  const { planId, revision, approved, visitor, undo, redo } = known;
  plans.set(planId, { planId, revision, approved, visitor, undo, redo });
}

/** How often an open page looks whether somebody else has changed the plan. */
const LOOK_MS = 5000;

/** Keeps what the page was given, and fetches the plan anew when somebody else changes it. */
export function useKnown(page: Known) {
  const { revalidate } = useRevalidator();
  const { load, data: head } = useFetcher<Known | null>();
  const { planId } = page;
  useEffect(() => {
    const held = plans.get(page.planId);
    if (!held || held.revision <= page.revision) keepKnown(page);
  }, [page]);
  useEffect(() => {
    const look = () => {
      if (document.visibilityState === "visible") load(`/plans/${planId}/head`);
    };
    const timer = setInterval(look, LOOK_MS);
    window.addEventListener("focus", look);
    return () => {
      clearInterval(timer);
      window.removeEventListener("focus", look);
    };
  }, [planId, load]);
  useEffect(() => {
    const held = head && plans.get(head.planId);
    if (!head || !held || sameHead(held, head)) return;
    keepKnown(head);
    revalidate();
  }, [head, revalidate]);
}

function sameHead(a: Known, b: Known): boolean {
  return a.revision === b.revision && a.approved === b.approved && a.undo === b.undo && a.redo === b.redo;
}
