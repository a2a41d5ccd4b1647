import type { Address } from "../address/index.ts";
import { Marks } from "../collections/index.ts";
import { forEachHolding, longestHolding, mostGroups, type Network } from "../network/index.ts";
import { addressBook } from "./flat/addresses.ts";

/** What a device's lookup of one address can depend on, in whatever state the device is. */
export interface Relevance {
  /** Interfaces by which the candidates concerned leave. */
  readonly interfaces: readonly number[];
  /** Watches that they are tied to. */
  readonly watches: readonly number[];
  /** Candidates that stand only while their neighbour answers. */
  readonly answering: readonly number[];
}

/**
 * Tells what lookups rest on: of all candidates whose destination holds the address, in any table of the
 * device, and of all through which their next hops could resolve (rules 4.3, 5.3). Whatever else becomes of
 * the device's interfaces and watches cannot change the answer. Worked out once per device and longest destination.
 */
export class Relevances {
  private readonly known: Map<number, Relevance>[];
  /** Groups of the device under examination, counted from its first, and the dependencies found there. */
  private readonly groups: Marks;
  private readonly interfaces: Marks;
  private readonly watches: Marks;
  private readonly answering: Marks;

  constructor(private readonly network: Network) {
    const { devices, interfaces, watches, candidates } = network;
    this.known = devices.map(() => new Map());
    this.groups = new Marks(mostGroups(network));
    this.interfaces = new Marks(interfaces.count);
    this.watches = new Marks(watches.length);
    this.answering = new Marks(candidates.answering.length);
  }

  /** `address` by its number in the network's address book. */
  of(device: number, address: number): Relevance {
    const { matching } = this.network.layouts[device];
    const asked = addressBook(this.network).addresses[address];
    // With one table, addresses that have the same longest destination have the same shorter ones too.
    const alone = matching.tables.length === 2;
    const key = alone ? longestHolding(matching, 0, asked) : address;
    let found = this.known[device].get(key);
    if (!found) {
      found = this.collect(device, asked);
      this.known[device].set(key, found);
    }
    return found;
  }

  private collect(device: number, address: Address): Relevance {
    const { candidates, devices, layouts } = this.network;
    for (const marks of [this.groups, this.interfaces, this.watches, this.answering]) marks.empty();
    forEachHolding(layouts[device].matching, address, (g) => this.groups.add(g));
    this.groups.each((g) => this.collectGroup(devices[device].firstGroup, g));
    return {
      interfaces: this.interfaces.toArray(),
      watches: this.watches.size ? this.watches.toArray() : nothing,
      answering: this.answering.size
        ? this.answering.toArray().map((slot) => candidates.answering[slot])
        : nothing,
    };
  }

  /** What the candidates of a group rest on, and the groups through which their next hops could resolve. */
  private collectGroup(firstGroup: number, group: number) {
    const { groups, candidates } = this.network;
    const g = firstGroup + group;
    for (let c = groups.start[g]; c < groups.start[g + 1]; c++) {
      if (candidates.fault[c]) continue;
      if (candidates.out[c] >= 0) this.interfaces.add(candidates.out[c]);
      if (candidates.watch[c] >= 0) this.watches.add(candidates.watch[c]);
      if (candidates.answer[c] >= 0) this.answering.add(candidates.answer[c]);
      if (candidates.out[c] >= 0 || !candidates.hasVia[c]) continue;
      for (let k = candidates.coverStart[c]; k < candidates.coverStart[c + 1]; k++)
        this.groups.add(candidates.cover[k] - firstGroup);
    }
  }
}

const nothing: readonly number[] = [];
