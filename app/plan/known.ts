import { useEffect } from "react";
import { useRevalidator } from "react-router";

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
  const revalidator = useRevalidator();
  const { planId } = page;
  useEffect(() => {
    const held = plans.get(page.planId);
    if (!held || held.revision <= page.revision) keepKnown(page);
  }, [page]);
  useEffect(() => {
    const look = async () => {
      if (document.visibilityState !== "visible") return;
      const response = await fetch(`/plans/${planId}/head`).catch(() => null);
      if (!response?.ok) return;
      const head = (await response.json()) as Known;
      const held = plans.get(planId);
      if (
        held &&
        held.revision === head.revision &&
        held.approved === head.approved &&
        held.undo === head.undo &&
        held.redo === head.redo
      )
        return;
      keepKnown(head);
      revalidator.revalidate();
    };
    const timer = setInterval(look, LOOK_MS);
    window.addEventListener("focus", look);
    return () => {
      clearInterval(timer);
      window.removeEventListener("focus", look);
    };
  }, [planId, revalidator]);
}
