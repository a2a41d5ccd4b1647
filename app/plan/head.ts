import { useQuery } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { useRevalidator } from "react-router";
import { type Stage, stageOf } from "../../core/plan/index.ts";
import type { Role } from "../../server/access/roles.ts";

/** What the browser knows of a plan's head: enough to answer pages without asking the server. */
export interface PlanHead {
  planId: string;
  /** The revision that is shown: the newest, unless the page's address pins another. */
  revision: number;
  newest: number;
  /** The revision that counts as approved; what differs from it is the draft. In the middle of a change, where that starts from. */
  approved: number;
  visitor: string;
  /** The user's role in this plan; "administers" if sign-in is off. */
  role: Role;
  /** Whether people sign in here. */
  shared: boolean;
  undo: string | null;
  redo: string | null;
}

const plans = new Map<string, PlanHead>();

export function headOf(planId: string): PlanHead | undefined {
  return plans.get(planId);
}

/** Lets the server tell anew where plans stand, and who asks. */
export function forgetHeads() {
  plans.clear();
}

const watchers = new Set<() => void>();

export function storeHead(known: PlanHead) {
  plans.set(known.planId, { ...known, revision: known.newest });
  for (const changed of watchers) changed();
}

function subscribe(changed: () => void) {
  watchers.add(changed);
  return () => watchers.delete(changed);
}

/** The newest revision that this browser knows of; it is known before the page shows it. */
export function newestOf({ planId, newest }: Pick<PlanHead, "planId" | "newest">): number {
  return Math.max(plans.get(planId)?.newest ?? 0, newest);
}

export function useNewest(page: Pick<PlanHead, "planId" | "newest">): number {
  return useSyncExternalStore(
    subscribe,
    () => newestOf(page),
    () => page.newest,
  );
}

/** The revision that each change starts from, by plan and number: what the network in its middle is held against. */
const bases = new Map<string, number>();

const baseKey = (planId: string, stage: Stage) => `${planId} ${stage.change}`;

/** What a page shows of a plan: the revision that its address pins, else the newest; null where too little is known. */
export function shownOf(known: PlanHead, revision: number | null): PlanHead | null {
  const stage = revision === null ? null : stageOf(revision);
  if (!stage) return { ...known, revision: revision ?? known.newest };
  const base = bases.get(baseKey(known.planId, stage));
  return base === undefined ? null : { ...known, revision: revision as number, approved: base };
}

/** How often an open page checks whether the plan has changed. */
const LOOK_MS = 5000;

async function fetchHead(planId: string): Promise<PlanHead> {
  const response = await fetch(`/plans/${planId}/head`);
  if (!response.ok) throw new Error(`the plan's revision could not be loaded (${response.status})`);
  return response.json();
}

/** Performs an action that moves the plan's head, and updates it at once; without an answer, the next check does. */
export async function moving<T>(planId: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } finally {
    await fetchHead(planId).then(storeHead, () => undefined);
  }
}

/** Keeps the page's plan and reloads it when another person changes it. If the server does not respond, the page is
 * unchanged and retries after a few seconds. */
export function useHead(page: PlanHead) {
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
    const stage = stageOf(page.revision);
    if (stage) {
      bases.set(baseKey(page.planId, stage), page.approved);
      return;
    }
    const held = plans.get(page.planId);
    if (!held || held.newest <= page.newest) storeHead(page);
  }, [page]);
  useEffect(() => {
    const held = head && plans.get(head.planId);
    // An answer requested before one's own edit was saved may arrive later: it is outdated.
    if (!head || !held || head.newest < held.newest || sameHead(held, head)) return;
    storeHead(head);
    revalidate();
  }, [head, revalidate]);
}

function sameHead(a: PlanHead, b: PlanHead): boolean {
  const keys = ["newest", "approved", "visitor", "role", "undo", "redo"] as const;
  return keys.every((key) => a[key] === b[key]);
}
