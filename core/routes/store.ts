import { type CopyBytes, differing, sliced } from "../collections/index.ts";
import type { DeviceRecord, Network, State } from "../network/index.ts";
import { deriveTables, type LocalChange } from "./derive.ts";
import type { DeviceTables } from "./device-tables.ts";
import { renumbered, sameView } from "./share.ts";
import { buildTables, type LocalState } from "./tables.ts";

/** Tables kept for a device; a long sweep passes more states than memory holds. */
const MAX_KEPT = 256;
/** Candidates in all the tables that are kept for a device. */
const MAX_CANDIDATES = 1_000_000;

/** A state and its known differences. */
type StateWithChanges = LocalState & Pick<State, "changedUse">;

/** Tables by device and local state (rule 13): scenarios with the same view of a device share its tables. The key is
 * the view's difference from the first requested state; tables are derived from those of that state. */
export class TableStore {
  private readonly known: Map<string, DeviceTables>[];
  /** Answer slots of each device: from its first to the next device's. */
  private readonly firstSlot: Int32Array;
  /** The first state seen: most devices see nothing else. */
  private first: StateWithChanges | null = null;
  private readonly noneTouched: Uint8Array;
  private readonly takenOver: (boolean | undefined)[] = [];
  private readonly tablesAtFirst: (DeviceTables | undefined)[];

  /** `like` is the store of a network that this one was edited from: tables that the edit leaves alone are taken over. */
  constructor(
    readonly network: Network,
    public like: TableStore | null = null,
  ) {
    // One step back is enough: a chain of edits must not keep every network that there was.
    if (like) like.like = null;
    const { devices, candidates } = network;
    this.known = devices.map(() => new Map());
    this.tablesAtFirst = devices.map(() => undefined);
    this.noneTouched = new Uint8Array(devices.length);
    this.firstSlot = new Int32Array(devices.length + 1);
    for (const c of candidates.answering) this.firstSlot[candidates.device[c] + 1]++;
    for (let d = 0; d < devices.length; d++) this.firstSlot[d + 1] += this.firstSlot[d];
  }

  /** The tables of a device in a state. */
  of(state: StateWithChanges, device: number): DeviceTables {
    this.first ??= state;
    const change = this.changeFrom(this.first, state, device);
    if (!change) return this.atFirst(device);
    const known = this.known[device];
    const key = keyOf(change, this.network.devices[device], this.firstSlot[device]);
    let tables = known.get(key);
    if (!tables) {
      tables = deriveTables(this.network, this.atFirst(device), state, change);
      if (known.size >= Math.min(MAX_KEPT, MAX_CANDIDATES / (tables.state.length + 1))) known.clear();
      known.set(key, tables);
    }
    return tables;
  }

  /** Takes a state for the first, unless one was asked for before. */
  beginWith(state: StateWithChanges) {
    this.first ??= state;
  }

  /** Devices whose view differs from the first requested state: 1 for each, in an array from `copy`. */
  touchedIn(state: StateWithChanges, copy: CopyBytes = sliced): Uint8Array {
    this.first ??= state;
    const { interfaces, watches, candidates } = this.network;
    const touched = copy(this.noneTouched);
    for (const i of differingUse(this.first, state)) touched[interfaces.device[i]] = 1;
    for (const w of differing(this.first.watchUp, state.watchUp)) touched[watches[w].device] = 1;
    for (const slot of differing(this.first.answers, state.answers))
      touched[candidates.device[candidates.answering[slot]]] = 1;
    return touched;
  }

  /** The tables of a device in the first state that was asked for. */
  atFirst(device: number): DeviceTables {
    let tables = this.tablesAtFirst[device];
    if (!tables) {
      if (!this.first) throw new Error("no state was asked for yet");
      const record = this.network.devices[device];
      tables =
        this.like && this.isTakenOver(device)
          ? renumbered(
              this.like.atFirst(device),
              record,
              this.like.network.interfaces === this.network.interfaces,
            )
          : buildTables(this.network, record, this.first);
      this.tablesAtFirst[device] = tables;
    }
    return tables;
  }

  /** Whether a device is the same as in the network that this one was edited from, and sees the same of itself. */
  isTakenOver(device: number): boolean {
    const { like } = this;
    if (!like?.first || !this.first) return false;
    this.takenOver[device] ??= sameView(
      { network: like.network, local: like.first, firstSlot: like.firstSlot },
      { network: this.network, local: this.first, firstSlot: this.firstSlot },
      device,
    );
    return this.takenOver[device];
  }

  /** What a device sees otherwise in `b` than in `a`; null where it sees the same. */
  private changeFrom(a: LocalState, b: LocalState, device: number): LocalChange | null {
    const { firstInterface, endInterface, firstWatch, endWatch } = this.network.devices[device];
    const interfaces = differing(a.interfaceUp, b.interfaceUp, firstInterface, endInterface);
    const watches = differing(a.watchUp, b.watchUp, firstWatch, endWatch);
    const answers = differing(a.answers, b.answers, this.firstSlot[device], this.firstSlot[device + 1]);
    return interfaces.length + watches.length + answers.length ? { interfaces, watches, answers } : null;
  }
}

/** Interfaces that are used otherwise in one state than in another of the same network. */
function differingUse(a: StateWithChanges, b: StateWithChanges): readonly number[] {
  if (a.interfaceUp === b.interfaceUp) return [];
  if (!a.changedUse || !b.changedUse) return differing(a.interfaceUp, b.interfaceUp);
  const differs = (i: number) => a.interfaceUp[i] !== b.interfaceUp[i];
  return [...a.changedUse, ...b.changedUse].filter(differs);
}

/** The key of a change: two characters per position, counted from the device's first. */
function keyOf(
  { interfaces, watches, answers }: LocalChange,
  { firstInterface, firstWatch }: DeviceRecord,
  firstSlot: number,
): string {
  return `${lettersOf(interfaces, firstInterface)}|${lettersOf(watches, firstWatch)}|${lettersOf(answers, firstSlot)}`;
}

/** A position as two characters: the quotient and remainder by 16,384. */
function lettersOf(places: readonly number[], first: number): string {
  const letters = (place: number) =>
    String.fromCharCode(FIRST_LETTER + ((place - first) >>> 14), FIRST_LETTER + ((place - first) & 0x3fff));
  return places.length === 1 ? letters(places[0]) : places.map(letters).join("");
}

/** From here on no letter is the sign between the lists, and for a million places none is half of a pair. */
const FIRST_LETTER = 128;
