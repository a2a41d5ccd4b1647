import { stepItem } from "../../../core/plan/index.ts";
import type { Runbook } from "../../../core/steps/index.ts";
import type { ChangeEvent, Tick } from "../../../server/changes/changes.ts";

type Stepped = Pick<Runbook, "anyOrder"> & {
  visits: readonly (Pick<Runbook["visits"][number], "anyOrder"> & { steps: readonly unknown[] })[];
};

/** Where a change that is carried out stands. */
export interface Progress {
  /** Steps done, and of how many. */
  readonly done: number;
  readonly of: number;
  /** Steps done one after the other from the first: so far the plan in the middle of the change is known. */
  readonly inLine: number;
  /** The visit that is next or under way, from 0; null where all are done. */
  readonly visit: number | null;
  /** Whether it is being rolled back: whoever has it open sees that. */
  readonly back: boolean;
  /** The next step to perform or, during a rollback, to undo, counted from 0; null if there is none. */
  readonly next: { readonly visit: number; readonly step: number } | null;
  /** Whether a proven order can reach the completed steps. */
  readonly proven: boolean;
}

/** The progress of a change from its ticked items. */
export function progressOf(
  runbook: Stepped,
  {
    ticks,
    events = [],
  }: { ticks: readonly Pick<Tick, "item">[]; events?: readonly Pick<ChangeEvent, "kind">[] },
): Progress {
  const turned = events.findLast(({ kind }) => kind === "turning back" || kind === "going on");
  const ticked = new Set(ticks.map(({ item }) => item));
  const done = runbook.visits.map(({ steps }, v) => steps.map((_, s) => ticked.has(stepItem(v, s))));
  const flat = done.flat();
  const open = flat.indexOf(false);
  const visit = done.findIndex((steps) => steps.includes(false));
  const back = turned?.kind === "turning back";
  const last = done.findLastIndex((steps) => steps.includes(true));
  const ahead = visit < 0 ? null : { visit, step: done[visit].indexOf(false) };
  const behind = last < 0 ? null : { visit: last, step: done[last].lastIndexOf(true) };
  return {
    back,
    next: back ? behind : ahead,
    done: flat.filter(Boolean).length,
    of: flat.length,
    inLine: open < 0 ? flat.length : open,
    visit: visit < 0 ? null : visit,
    proven: isProven(runbook, done),
  };
}

/** Whether a proven order passes a state: the given order, or a proven free one. */
function isProven({ visits, anyOrder }: Stepped, done: readonly (readonly boolean[])[]): boolean {
  const together = (runs: readonly (readonly number[])[], a: number, b: number) =>
    runs.some((run) => run.includes(a + 1) && run.includes(b + 1));
  const begun = done.map((steps) => steps.includes(true));
  const whole = done.map((steps) => !steps.includes(false));
  return done.every((steps, v) => {
    if (!begun[v]) return true;
    for (let u = 0; u < v; u++) {
      if (whole[u]) continue;
      // Of visits in any order, one is under way at a time.
      if (!together(anyOrder, u, v) || (begun[u] && !whole[v])) return false;
    }
    return steps.every(
      (is, s) =>
        !is || steps.slice(0, s).every((earlier, e) => earlier || together(visits[v].anyOrder, e, s)),
    );
  });
}
