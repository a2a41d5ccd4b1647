import { createHash } from "node:crypto";

/** Names that every network namespace has itself, or its settings use for all interfaces. */
const RESERVED = new Set(["lo", "all", "default"]);

/** Names of the kernel's hold 15 characters, and no slash: a name that it cannot have is cut, with its digest behind. */
export function portName(name: string): string {
  if (name.length <= 15 && !/[/:\s]/.test(name) && !RESERVED.has(name)) return name;
  const digest = createHash("sha256").update(name).digest("hex").slice(0, 5);
  return `${name.replaceAll(/[/:\s]/g, "-").slice(0, 9)}~${digest}`;
}

/** Attached networks have metric 0 in IPv4 and 256 in IPv6: written routes come after them, in their own order. */
export function kernelMetric(metric: number | undefined, family: string): number {
  if (metric === undefined) return family === "-6" ? 1024 : 0;
  return metric + (family === "-6" ? 1024 : 1);
}
