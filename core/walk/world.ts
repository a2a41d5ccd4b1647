import { type CopyBytes, onceFor, sliced } from "../collections/index.ts";
import type { State } from "../network/index.ts";
import type { DeviceTables, TableStore } from "../routes/index.ts";
import { type Rows, rowsOf } from "./flat/rows.ts";

/** The network at one moment with its route tables: all that a walk reads. */
export class World {
  private differs: Uint8Array | null = null;
  /** Tables of devices whose view differs from the first state; the store has those of all others. */
  private now: Map<number, DeviceTables> | null = null;
  private rows: Map<number, Rows> | null = null;

  constructor(
    readonly state: State,
    readonly store: TableStore,
    /** Tables that stand in place of the store's, by device. */
    private readonly instead: ReadonlyMap<number, DeviceTables> | null = null,
    /** Allocates the buffers of the state. */
    private readonly copy: CopyBytes = sliced,
  ) {}

  /** 1 for each device that sees otherwise of itself than in the state that the store saw first. */
  get touched(): Uint8Array {
    if (!this.differs) {
      this.differs = this.store.touchedIn(this.state, this.copy);
      for (const device of this.instead?.keys() ?? []) this.differs[device] = 1;
    }
    return this.differs;
  }

  tablesOf(device: number): DeviceTables {
    if (!this.touched[device]) return this.store.atFirst(device);
    this.now ??= new Map();
    let tables = this.now.get(device);
    if (!tables) {
      tables = this.instead?.get(device) ?? this.store.of(this.state, device);
      this.now.set(device, tables);
    }
    return tables;
  }

  /** Where a device sends packets, as rows of whole numbers. */
  rowsOf(device: number): Rows {
    if (!this.touched[device]) return rowsAtFirst(this.store, device);
    this.rows ??= new Map();
    let rows = this.rows.get(device);
    if (!rows) {
      rows = rowsOf(this.state.network, this.tablesOf(device));
      this.rows.set(device, rows);
    }
    return rows;
  }
}

const initialTables = onceFor(
  ({ network }: TableStore): (Rows | undefined)[] => new Array(network.devices.length),
);

/** The rows of a device in the state that its store saw first. */
function rowsAtFirst(store: TableStore, device: number): Rows {
  const kept = initialTables(store);
  const rows = kept[device] ?? rowsOf(store.network, store.atFirst(device));
  kept[device] = rows;
  return rows;
}
