import type { Outage, Plan } from "../../core/plan/index.ts";

/** Each device is a namespace, and those that act a process. */
const MOST_DEVICES = 150;
/** It happens in real time, and holds a worker for as long. */
const MOST_MINUTES = 15;

/** Why an outage of a plan is too much to be rehearsed, in a sentence; null where it is not. */
export function tooMuch({ devices }: Plan, steps: Outage["steps"]): string | null {
  if (devices.length > MOST_DEVICES)
    return `the plan has ${devices.length} devices; the lab's limit is ${MOST_DEVICES}`;
  const minutes = Math.max(...steps.map(({ atMs }) => atMs)) / 60_000;
  if (minutes > MOST_MINUTES)
    return `the outage takes ${Math.ceil(minutes)} min in real time; the limit is ${MOST_MINUTES} min`;
  return null;
}
