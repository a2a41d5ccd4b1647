import { type Address, formatAddress } from "../address/index.ts";
import type { World } from "../walk/index.ts";

/** Answers kept for a world at most; past that it begins anew. */
const MOST = 50_000;

/**
 * What was worked out for a world, kept as long as the world itself: the side of a comparison that stays while edits
 * are tried against it is walked once. The key is an address and a device, or -1 for what concerns none.
 */
export class Remembered<T> {
  private readonly known = new WeakMap<World, Map<string, T>>();

  of(world: World, address: Address, device: number, make: () => T): T {
    let kept = this.known.get(world);
    if (!kept || kept.size >= MOST) {
      kept = new Map();
      this.known.set(world, kept);
    }
    const key = `${device} ${formatAddress(address)}`;
    const found = kept.get(key);
    if (found !== undefined) return found;
    const made = make();
    kept.set(key, made);
    return made;
  }
}
