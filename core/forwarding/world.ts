import type { State } from "../network/index.ts";
import type { DeviceTables, TableStore } from "../rib/index.ts";
import { type Rows, rowsOf } from "./flat/rows.ts";

/** The network at one moment with its route tables: all that a walk reads. */
export class World {
  private differs: Uint8Array | null = null;
  private readonly now: (DeviceTables | undefined)[];
  private readonly rows: (Rows | undefined)[];

  constructor(
    readonly state: State,
    readonly store: TableStore,
    /** Tables that stand in place of the store's, by device. */
    private readonly instead: ReadonlyMap<number, DeviceTables> | null = null,
  ) {
    const { length } = state.network.devices;
    this.now = new Array(length);
    this.rows = new Array(length);
  }

  /** 1 for each device that sees otherwise of itself than in the state that the store saw first. */
  get touched(): Uint8Array {
    if (!this.differs) {
      this.differs = this.store.touchedIn(this.state);
      for (const device of this.instead?.keys() ?? []) this.differs[device] = 1;
    }
    return this.differs;
  }

  tablesOf(device: number): DeviceTables {
    let tables = this.now[device];
    if (!tables) {
      tables =
        this.instead?.get(device) ??
        (this.touched[device] ? this.store.of(this.state, device) : this.store.atFirst(device));
      this.now[device] = tables;
    }
    return tables;
  }

  /** Where a device sends packets, as rows of whole numbers. */
  rowsOf(device: number): Rows {
    let rows = this.rows[device];
    if (!rows) {
      rows = rowsOf(this.state.network, this.tablesOf(device));
      this.rows[device] = rows;
    }
    return rows;
  }
}
