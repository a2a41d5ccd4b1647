import type { Network, State } from "../network/index.ts";
import type { DeviceTables } from "./device-tables.ts";
import { buildTables } from "./tables.ts";

type LocalState = Pick<State, "interfaceUp" | "watchUp" | "answers">;

/** Tables kept for a device; a long sweep passes more states than memory holds. */
const MAX_KEPT = 256;

/**
 * Tables by device and local state (rule 13): two scenarios in which a device sees the same of itself
 * share its tables. The key is the device's bytes of the state's arrays.
 */
export class TableStore {
  private readonly known: Map<string, DeviceTables>[];
  /** Answer slots of each device, in the order of its candidates. */
  private readonly slots: Int32Array[];
  /** The first state seen: most devices see nothing else, and are told apart from it without a key. */
  private first: LocalState | null = null;
  private readonly tablesAtFirst: (DeviceTables | undefined)[] = [];

  constructor(private readonly network: Network) {
    this.known = network.devices.map(() => new Map());
    this.slots = network.devices.map((device) =>
      network.candidates.answer
        .subarray(device.firstCandidate, device.endCandidate)
        .filter((slot) => slot >= 0),
    );
  }

  /** The tables of a device in a state. */
  of(state: LocalState, device: number): DeviceTables {
    this.first ??= state;
    if (this.seesTheSame(this.first, state, device)) {
      this.tablesAtFirst[device] ??= buildTables(this.network, this.network.devices[device], state);
      return this.tablesAtFirst[device];
    }
    const known = this.known[device];
    const key = this.keyOf(state, device);
    let tables = known.get(key);
    if (!tables) {
      tables = buildTables(this.network, this.network.devices[device], state);
      if (known.size >= MAX_KEPT) known.clear();
      known.set(key, tables);
    }
    return tables;
  }

  private seesTheSame(a: LocalState, b: LocalState, device: number): boolean {
    const { firstInterface, endInterface, firstWatch, endWatch } = this.network.devices[device];
    for (let i = firstInterface; i < endInterface; i++)
      if (a.interfaceUp[i] !== b.interfaceUp[i]) return false;
    for (let w = firstWatch; w < endWatch; w++) if (a.watchUp[w] !== b.watchUp[w]) return false;
    for (const slot of this.slots[device]) if (a.answers[slot] !== b.answers[slot]) return false;
    return true;
  }

  private keyOf(state: LocalState, device: number): string {
    const { firstInterface, endInterface, firstWatch, endWatch } = this.network.devices[device];
    let key = "";
    for (let i = firstInterface; i < endInterface; i++) key += state.interfaceUp[i];
    for (let w = firstWatch; w < endWatch; w++) key += state.watchUp[w];
    for (const slot of this.slots[device]) key += state.answers[slot];
    return key;
  }
}
