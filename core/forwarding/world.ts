import type { State } from "../network/index.ts";
import type { DeviceTables, TableStore } from "../rib/index.ts";
import { type Rows, rowsOf } from "./flat/rows.ts";

/** The network at one moment with its route tables: all that a walk reads. */
export class World {
  private readonly now: (DeviceTables | undefined)[];
  private readonly rows: (Rows | undefined)[];

  constructor(
    readonly state: State,
    readonly store: TableStore,
  ) {
    const { length } = state.network.devices;
    this.now = new Array(length);
    this.rows = new Array(length);
  }

  tablesOf(device: number): DeviceTables {
    let tables = this.now[device];
    if (!tables) {
      tables = this.store.of(this.state, device);
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
