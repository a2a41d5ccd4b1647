import type { Network } from "../../network/index.ts";
import type { TableStore } from "../../rib/index.ts";
import { addressBook } from "./addresses.ts";
import { BRANCH, ROW, rowsOf } from "./rows.ts";

/** Where a row has to be looked at; a plan has far fewer interfaces (`LIMITS`). */
export const LOOK = 65535;

/** Bytes that the steps of one network take at most; past that they begin anew. */
const MAX_BYTES = 64 * 1024 * 1024;

/**
 * For each destination, all devices beside each other: one more than the interface by which a packet comes in next,
 * and the interface by which it leaves, where a device in the state that the store saw first leads straight on;
 * LOOK where there is more to look at, 0 where it is not worked out. A hop is one read.
 */
export class Steps {
  private lists: (Uint16Array | undefined)[] = [];
  private count = 0;
  private others: readonly number[] | null = null;

  constructor(
    private readonly network: Network,
    private readonly store: TableStore,
    private like: Steps | null,
  ) {
    if (like) like.like = null;
  }

  /** The steps towards an address, two numbers a device. */
  towards(address: number): Uint16Array {
    const known = this.lists[address];
    if (known) return known;
    const size = this.network.devices.length * 2;
    if (this.count * size * 2 > MAX_BYTES) {
      this.lists = [];
      this.count = 0;
    }
    const list = this.takenOver(address) ?? new Uint16Array(size);
    this.lists[address] = list;
    this.count++;
    return list;
  }

  /** The steps of the network that this one was edited from, without those of devices that are not the same. */
  private takenOver(address: number): Uint16Array | null {
    const list = this.like?.lists[address];
    if (!list) return null;
    const own = list.slice();
    for (const device of this.changed()) own[device * 2] = 0;
    return own;
  }

  private changed(): readonly number[] {
    this.others ??= this.network.devices
      .map((device) => device.index)
      .filter((device) => !this.store.isTakenOver(device));
    return this.others;
  }

  /** Works out one device's step. */
  fill(list: Uint16Array, device: number, address: number): number {
    const rows = rowsOf(this.network, this.store.atFirst(device));
    const row = rows.straight(address);
    const branch = row + ROW.size;
    list[device * 2] = row < 0 ? LOOK : rows.cells[branch + BRANCH.owner] + 1;
    list[device * 2 + 1] = row < 0 ? LOOK : rows.cells[branch + BRANCH.out];
    return list[device * 2];
  }
}

const known = new WeakMap<TableStore, Steps>();

export function stepsOf(network: Network, store: TableStore): Steps {
  let steps = known.get(store);
  if (!steps) {
    const { like } = store;
    const alike =
      like && addressBook(network) === addressBook(like.network) ? (known.get(like) ?? null) : null;
    steps = new Steps(network, store, alike);
    known.set(store, steps);
  }
  return steps;
}
