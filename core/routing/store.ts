import type { Network, State } from "../network/index.ts";
import { buildTables, type DeviceTables } from "./tables.ts";

/**
 * Tables by device and local state (rule 13): two scenarios in which a device sees the same of itself
 * share its tables. The key is the device's bytes of the state's arrays.
 */
export class TableStore {
  private readonly known: Map<string, DeviceTables>[];
  /** Answer slots of each device, in the order of its candidates. */
  private readonly slots: Int32Array[];

  constructor(private readonly network: Network) {
    this.known = network.devices.map(() => new Map());
    this.slots = network.devices.map((device) =>
      network.candidates.answer
        .subarray(device.firstCandidate, device.endCandidate)
        .filter((slot) => slot >= 0),
    );
  }

  /** The tables of a device in a state. */
  of(state: Pick<State, "interfaceUp" | "watchUp" | "answers">, device: number): DeviceTables {
    const record = this.network.devices[device];
    let key = "";
    for (let i = record.firstInterface; i < record.endInterface; i++) key += state.interfaceUp[i];
    for (let w = record.firstWatch; w < record.endWatch; w++) key += state.watchUp[w];
    for (const slot of this.slots[device]) key += state.answers[slot];
    let tables = this.known[device].get(key);
    if (!tables) {
      tables = buildTables(this.network, record, state);
      this.known[device].set(key, tables);
    }
    return tables;
  }
}
