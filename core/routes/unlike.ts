import { addTo } from "../collections/index.ts";
import type { Network } from "../network/index.ts";
import type { DeviceTables } from "./device-tables.ts";

/**
 * The groups (network-wide, ascending) of a device that may lead elsewhere in one set of its tables than in another of
 * the same candidates: those of which a route came into use or went out of it, or stands elsewhere, and those whose next
 * hops are found through one of these. Every other group surely leads the same way. Time: about O(candidates).
 */
export function groupsUnlike({ candidates }: Network, a: DeviceTables, b: DeviceTables): number[] {
  if (a === b) return [];
  const { firstCandidate } = a.device;
  const unlike = new Set<number>();
  const through = new Map<number, number[]>();
  for (let i = 0; i < a.state.length; i++) {
    const group = candidates.group[firstCandidate + i];
    if (a.state[i] !== b.state[i] || a.through[i] !== b.through[i]) unlike.add(group);
    else if (b.through[i] >= 0) addTo(through, b.through[i], group);
  }
  if (unlike.size === 0) return [];
  // Iterating over a Set includes the items added meanwhile.
  for (const group of unlike) for (const dependent of through.get(group) ?? []) unlike.add(dependent);
  return [...unlike].sort((x, y) => x - y);
}
