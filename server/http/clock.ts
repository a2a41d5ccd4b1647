import { existsSync, readFileSync, readlinkSync } from "node:fs";

/** How many milliseconds a tick of the system's accounts is: USER_HZ is 100 on every Linux that Node runs on. */
const TICK_MS = 10;
/** Whether the system keeps accounts of threads: Linux does. */
const TOLD = existsSync("/proc/thread-self/stat");

/** Reported by a thread for its current job, in shared memory: two numbers, 0 until it starts. The thread's system id,
 * and its processor time at the start in ticks. */
export type Clock = Int32Array;

export function makeClock(): Clock {
  return new Int32Array(new SharedArrayBuffer(8));
}

/** The calling thread starts the job. Without system accounting, the clock is unchanged. */
export function start(clock: Clock) {
  if (!TOLD) return;
  const thread = Number(readlinkSync("/proc/thread-self").split("/").at(-1));
  clock[1] = ticksOf(thread);
  Atomics.store(clock, 0, thread);
}

/** Processor time of a job so far in milliseconds: 0 before it starts; null if unknown. */
export function usedMs(clock: Clock): number | null {
  if (!TOLD) return null;
  const thread = Atomics.load(clock, 0);
  if (thread === 0) return 0;
  try {
    return (ticksOf(thread) - clock[1]) * TICK_MS;
  } catch {
    // The thread has ended.
    return null;
  }
}

/** User and system time of a thread of this process, in ticks (proc(5), fields 14 and 15 of stat). */
function ticksOf(thread: number): number {
  const stat = readFileSync(`/proc/self/task/${thread}/stat`, "utf8");
  // The second field is a name in parentheses, and may hold anything.
  const fields = stat.slice(stat.lastIndexOf(")") + 2).split(" ");
  return Number(fields[11]) + Number(fields[12]);
}
