import type { Outage, Plan } from "../../core/plan/index.ts";

/** Each device is a namespace, and those that act a process. */
export const MOST_DEVICES = 150;
/** It happens in real time, and holds a worker for as long. */
export const MOST_MINUTES = 15;

/** Why an outage of a plan is too much to be rehearsed, in a sentence; null where it is not. */
export function tooMuch({ devices }: Plan, steps: Outage["steps"]): string | null {
  if (devices.length > MOST_DEVICES)
    return `a lab holds at most ${MOST_DEVICES} devices, and this plan has ${devices.length}`;
  const minutes = Math.max(...steps.map(({ atMs }) => atMs)) / 60_000;
  if (minutes > MOST_MINUTES)
    return `it happens in real time, for at most ${MOST_MINUTES} minutes, and this outage takes ${Math.ceil(minutes)}`;
  return null;
}
