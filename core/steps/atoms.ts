import { type Change, deviceOfChange, differencePlans, type Plan } from "../plan/index.ts";

/** One thing that is entered, changed or removed on one device, or between devices: a link that is laid, a pair that is formed. */
export interface Step {
  /** The device to configure; null for a change between devices: a link, a pair. */
  readonly device: string | null;
  readonly change: Change;
}

export interface Draft {
  /** In an order in which they can be applied. */
  readonly steps: readonly Step[];
  /** What changes on paper alone: flows, gateways, risks, saved outages, dismissals, names, profiles. */
  readonly paper: readonly Change[];
}

/** The atomic steps that lead from one plan to another: one route, watch, interface or policy item each. */
export function draftOf(from: Plan, to: Plan): Draft {
  const steps: Step[] = [];
  const paper: Change[] = [];
  for (const change of differencePlans(from, to)) {
    const device = deviceOfChange(change);
    if (device !== null || isBetween(change)) steps.push({ device, change });
    else paper.push(change);
  }
  return { steps, paper };
}

/** The name of a visit that belongs to no single device. */
export const BETWEEN_DEVICES = "between devices";

/** Whether a change is made between devices and involves all of them: both members of a pair must be configured. */
function isBetween(change: Change): boolean {
  return change.in === "plan" && (change.collection === "links" || change.collection === "pairs");
}
