import { type Change, deviceOfChange, differencePlans, type Plan } from "../plan/index.ts";

/** One thing that is entered, changed or removed on one device, or one link that is laid or taken away. */
export interface Step {
  /** The device on which it is done; null for what is done on none, such as a link. */
  readonly device: string | null;
  readonly change: Change;
}

export interface Draft {
  /** In an order in which they can be applied. */
  readonly steps: readonly Step[];
  /** What changes on paper alone: flows, gateways, saved outages, dismissals, names, profiles. */
  readonly paper: readonly Change[];
}

/** The atomic steps that lead from one plan to another: one route, watch, interface or policy item each. */
export function draftOf(from: Plan, to: Plan): Draft {
  const steps: Step[] = [];
  const paper: Change[] = [];
  for (const change of differencePlans(from, to)) {
    const device = deviceOfChange(change);
    const isLink = change.in === "plan" && change.collection === "links";
    if (device !== null || isLink) steps.push({ device, change });
    else paper.push(change);
  }
  return { steps, paper };
}
