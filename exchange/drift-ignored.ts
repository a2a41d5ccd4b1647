import { type Dismissal, dismissalKey, type Edit, type Plan } from "../core/plan/index.ts";
import { type DriftEntry, ignoringOf } from "./drift-entry.ts";

const counted = (n: number) => `${n} ${n === 1 ? "difference" : "differences"}`;

/** The edit that ignores differences permanently, with a reason. */
export function ignoring(entries: readonly DriftEntry[], reason: string): Edit {
  const kept = new Map(entries.map((entry) => [dismissalKey(ignoringOf(entry)), ignoringOf(entry)]));
  return {
    label: `Ignore ${counted(entries.length)} from devices`,
    changes: [...kept.values()].map((one) => ({
      in: "plan",
      collection: "dismissals",
      before: null,
      after: { ...one, reason: reason.trim().slice(0, 2000) } satisfies Dismissal,
    })),
  };
}

/** The edit with which ignored differences count again. */
export function unignore({ dismissals }: Plan, entries: readonly DriftEntry[]): Edit {
  const keys = new Set(entries.map((entry) => dismissalKey(ignoringOf(entry))));
  return {
    label: `Stop ignoring ${counted(entries.length)} from devices`,
    changes: dismissals
      .filter((one) => keys.has(dismissalKey(one)))
      .map((before) => ({ in: "plan", collection: "dismissals", before, after: null })),
  };
}
