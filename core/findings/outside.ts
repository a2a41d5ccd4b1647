import type { Walk } from "../forwarding/index.ts";
import type { Context } from "./context.ts";

/** Whether a packet left the network for a provider or the internet. */
export function passesOutside(context: Context, walk: Walk): boolean {
  return walk.hops.some((hop) => ["provider", "internet"].includes(context.network.devices[hop.device].role));
}

/** The last device of ours before a packet left for a provider or the internet; null where it stayed inside. */
export function lastInside(
  context: Context,
  walk: Walk,
): { device: number; out: number; translated: boolean } | null {
  const at = walk.hops.findIndex((hop) =>
    ["provider", "internet"].includes(context.network.devices[hop.device].role),
  );
  const before = walk.hops[at - 1];
  return at > 0 && before.out >= 0
    ? { device: before.device, out: before.out, translated: before.translated !== null }
    : null;
}
