import { type Address, formatAddress } from "../address/index.ts";
import type { World } from "../walk/index.ts";

/** Answers kept for a world at most; past that it begins anew. */
const MOST = 50_000;

/** Results per world, kept as long as the world: while edits are compared with one state, that state is walked once.
 * The key is an address and a device; -1 for results without a device. */
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
