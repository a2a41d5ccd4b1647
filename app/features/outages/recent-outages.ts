import { z } from "zod";

const recentSchema = z.array(z.object({ fail: z.array(z.string()), healMs: z.number().nullable() })).max(20);

export type RecentOutage = z.output<typeof recentSchema>[number];

/** Outages that are remembered for each plan. */
const MAX_RECENT = 3;

const keyOf = (planId: string) => `recent-outages:${planId}`;

/** The outages of a plan that were simulated last in this browser, newest first. */
export function recentOutages(planId: string): RecentOutage[] {
  try {
    const read = recentSchema.safeParse(JSON.parse(localStorage.getItem(keyOf(planId)) ?? "[]"));
    return read.success ? read.data : [];
  } catch {
    return [];
  }
}

/** Remembers an outage as the newest one. */
export function rememberOutage(planId: string, outage: RecentOutage): void {
  const same = ({ fail, healMs }: RecentOutage) =>
    fail.join() === outage.fail.join() && healMs === outage.healMs;
  const list = [outage, ...recentOutages(planId).filter((one) => !same(one))].slice(0, MAX_RECENT);
  try {
    localStorage.setItem(keyOf(planId), JSON.stringify(list));
  } catch {
    // Storage is full or blocked: the list is a convenience.
  }
}
