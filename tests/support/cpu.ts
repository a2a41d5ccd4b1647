/** Runs something, and tells the processor time that it took in milliseconds: what else runs on the machine does not count. */
export function timed<T>(work: () => T): { result: T; ms: number } {
  const before = process.cpuUsage();
  const result = work();
  const { user, system } = process.cpuUsage(before);
  return { result, ms: (user + system) / 1000 };
}
