import type { Outage, Plan } from "../../core/plan/index.ts";

/** Each device is a namespace, and those that act a process. */
const MAX_DEVICES = 150;
/** It happens in real time, and holds a worker for as long. */
const MAX_MINUTES = 15;

/** Why an outage is too large to rehearse, as a sentence; null if it is not. */
export function tooMuch({ devices }: Plan, steps: Outage["steps"]): string | null {
  if (devices.length > MAX_DEVICES)
    return `the plan has ${devices.length} devices; the lab's limit is ${MAX_DEVICES}`;
  const minutes = Math.max(...steps.map(({ atMs }) => atMs)) / 60_000;
  if (minutes > MAX_MINUTES)
    return `the outage takes ${Math.ceil(minutes)} min in real time; the limit is ${MAX_MINUTES} min`;
  return null;
}
