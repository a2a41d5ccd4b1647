import type { State } from "../network/index.ts";
import type { DeviceTables, TableStore } from "../rib/index.ts";

/** The network at one moment with its route tables: all that a walk reads. */
export class World {
  private readonly now: (DeviceTables | undefined)[] = [];

  constructor(
    readonly state: State,
    readonly store: TableStore,
  ) {}

  tablesOf(device: number): DeviceTables {
    let tables = this.now[device];
    if (!tables) {
      tables = this.store.of(this.state, device);
      this.now[device] = tables;
    }
    return tables;
  }
}
