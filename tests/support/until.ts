import { setTimeout as rest } from "node:timers/promises";

/** Waits until something holds, looking again and again; throws where it never does. */
export async function until(holds: () => boolean | Promise<boolean>, withinMs = 20_000, everyMs = 150) {
  const end = Date.now() + withinMs;
  while (!(await holds())) {
    if (Date.now() > end) throw new Error(`it did not come to hold within ${withinMs} ms`);
    await rest(everyMs);
  }
}
