import type { Network } from "../../network/index.ts";
import type { TableStore } from "../../routes/index.ts";
import type { World } from "../world.ts";
import { addressBook } from "./addresses.ts";
import { BRANCH, ROW, type Rows, rowsOf } from "./rows.ts";

/** Where a row has to be looked at; a plan has far fewer interfaces (`LIMITS`). */
export const LOOK = 65535;

/** Bytes that the steps of one network take at most; past that they begin anew. */
const MAX_BYTES = 64 * 1024 * 1024;

/** Devices that an edit, and those before it, may have left unlike the steps that are shared; past that they begin anew. */
const MAX_UNLIKE = 64;

/** Lists of steps by destination, shared by networks that were edited from each other. */
interface Shared {
  lists: (Uint16Array | undefined)[];
  count: number;
}

/** For each destination, one entry per device: the next ingress interface plus one, and the egress interface, if the
 * device forwards plainly in the first state of the store; LOOK if it needs a closer look, 0 if not computed. A hop is
 * a single read. */
export class Steps {
  private readonly shared: Shared;
  /** 1 for each device that the shared steps do not cover; null if they cover all. */
  private readonly unlike: Uint8Array | null;
  private readonly off = new WeakMap<World, Uint8Array>();

  constructor(
    private readonly network: Network,
    private readonly store: TableStore,
    like: Steps | null,
  ) {
    const unlike =
      like && network.devices.map((_, d) => Number(!store.isTakenOver(d) || like.unlike?.[d] === 1));
    const few = unlike && unlike.reduce((sum, one) => sum + one, 0) <= MAX_UNLIKE;
    this.unlike = few ? Uint8Array.from(unlike) : null;
    this.shared = few && like ? like.shared : { lists: [], count: 0 };
  }

  /** 1 for each device of which the steps do not speak in a world: its rows have to be asked. */
  offIn(world: World): Uint8Array {
    if (!this.unlike) return world.touched;
    let off = this.off.get(world);
    if (!off) {
      off = world.touched.map((touched, d) => touched | (this.unlike?.[d] ?? 0));
      this.off.set(world, off);
    }
    return off;
  }

  /** The steps towards an address, two numbers a device. */
  towards(address: number): Uint16Array {
    const { shared } = this;
    const known = shared.lists[address];
    if (known) return known;
    const size = (this.network.devices.length + 1) * 2;
    if (shared.count * size * 2 > MAX_BYTES) {
      shared.lists = [];
      shared.count = 0;
    }
    const list = new Uint16Array(size);
    shared.lists[address] = list;
    shared.count++;
    return list;
  }

  /**
   * Where a device's step stands in a list towards an address: who answers next plus one, or LOOK, then the exit. `off` is
   * that of the world. A device that is off has the list's last place, as long as no other one is asked for.
   */
  at(list: Uint16Array, world: World, off: Uint8Array, device: number, address: number): number {
    const at = (off[device] ? off.length : device) * 2;
    if (off[device]) this.write(list, at, world.rowsOf(device), address);
    else if (list[at] === 0) this.write(list, at, rowsOf(this.network, this.store.atFirst(device)), address);
    return at;
  }

  private write(list: Uint16Array, at: number, rows: Rows, address: number) {
    const row = rows.straight(address);
    const branch = row + ROW.size;
    list[at] = row < 0 ? LOOK : rows.cells[branch + BRANCH.owner] + 1;
    list[at + 1] = row < 0 ? LOOK : rows.cells[branch + BRANCH.out];
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
