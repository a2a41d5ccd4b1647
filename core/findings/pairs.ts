import { samePrefix } from "../address/index.ts";
import type { Context, Written } from "./context.ts";

export interface Pair {
  readonly primary: Written;
  readonly backup: Written;
}

/** Each route in use with the one that stands by behind it, both written, both forwarding. */
export function pairsOf(context: Context): Pair[] {
  const { candidates } = context.network;
  const pairs: Pair[] = [];
  for (const backup of context.written) {
    if (backup.state !== "standby" || !context.forwards(backup)) continue;
    const primary = context.written.find(
      (w) =>
        w.device === backup.device &&
        candidates.table[w.candidate] === candidates.table[backup.candidate] &&
        w.state === "in-use" &&
        samePrefix(w.to, backup.to) &&
        context.forwards(w),
    );
    if (primary) pairs.push({ primary, backup });
  }
  return pairs;
}
