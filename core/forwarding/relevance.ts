import type { Address } from "../address/index.ts";
import { forEachHolding, type Network, viaOf } from "../network/index.ts";
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
 * the device's interfaces and watches cannot change the answer. Worked out once per device and address.
 */
export class Relevances {
  private readonly known: Map<number, Relevance>[];

  constructor(private readonly network: Network) {
    this.known = network.devices.map(() => new Map());
  }

  /** `address` by its number in the network's address book. */
  of(device: number, address: number): Relevance {
    let found = this.known[device].get(address);
    if (!found) {
      found = this.collect(device, addressBook(this.network).addresses[address]);
      this.known[device].set(address, found);
    }
    return found;
  }

  private collect(device: number, address: Address): Relevance {
    const { groups, candidates, devices } = this.network;
    const interfaces = new Set<number>();
    const watches = new Set<number>();
    const answering = new Set<number>();
    const seen = new Set<number>();
    const open: number[] = [];
    const take = (g: number) => {
      if (seen.has(g)) return;
      seen.add(g);
      open.push(g);
    };
    const { firstGroup } = devices[device];
    const { matching } = this.network.layouts[device];
    forEachHolding(matching, address, (g) => take(firstGroup + g));
    for (let g = open.pop(); g !== undefined; g = open.pop()) {
      for (let c = groups.start[g]; c < groups.start[g + 1]; c++) {
        if (candidates.fault[c]) continue;
        if (candidates.out[c] >= 0) interfaces.add(candidates.out[c]);
        if (candidates.watch[c] >= 0) watches.add(candidates.watch[c]);
        if (candidates.answer[c] >= 0) answering.add(c);
        if (candidates.out[c] >= 0 || !viaOf(this.network, c)) continue;
        for (let k = candidates.coverStart[c]; k < candidates.coverStart[c + 1]; k++)
          take(candidates.cover[k]);
      }
    }
    return { interfaces: [...interfaces], watches: [...watches], answering: [...answering] };
  }
}
