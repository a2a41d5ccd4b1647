import type { Address } from "../address/index.ts";
import { addressesOf, type Network, onceFor, ownersOf } from "../network/index.ts";
import type { Trip } from "./flow.ts";
import type { Walk } from "./packet.ts";
import { Relevances } from "./relevance.ts";
import type { Question } from "./walk.ts";

/** Takes what an answer rests on, by number, each as often as it is met. */
export interface InputSink {
  device(d: number): void;
  interface(i: number): void;
  watch(w: number): void;
  /** A candidate that stands only while its neighbour answers. */
  answering(c: number): void;
}

const relevancesOf = onceFor((network: Network) => new Relevances(network));

/**
 * What a trip that answers a question read of the state (rule 10.4): the life of the devices that it visits, the
 * interfaces that it passes or that its sources are chosen among, and all that the lookups on its way can depend on.
 * As long as none of it changes, the trip stays as it is.
 */
export class TripInputs {
  private readonly relevances: Relevances;
  private readonly lookups = new Set<unknown>();

  constructor(
    private readonly network: Network,
    private readonly sink: InputSink,
  ) {
    this.relevances = relevancesOf(network);
  }

  add(question: Question, trip: Trip): this {
    this.sink.device(question.device);
    if (question.pinned) this.sink.interface(question.pinned.out);
    if (question.zone !== undefined) this.sink.interface(question.zone);
    this.addLookup(question.device, question.destination);
    if (question.source) this.addOwners(question.source);
    for (const { outbound, reply } of trip.branches) {
      this.addWalk(outbound, [question.destination], question.source);
      if (!question.source)
        this.addSources(question.device, question.destination, outbound.hops[0]?.out ?? -1);
      if (reply && outbound.packet) {
        const back = [outbound.packet.source, ...outbound.sessions.map((session) => session.original)];
        this.addWalk(reply, back, outbound.packet.destination);
      }
    }
    return this;
  }

  private addWalk(walk: Walk, destinations: readonly Address[], source: Address | null) {
    const sources = [source, walk.packet?.source, ...walk.sessions.map((session) => session.translated)];
    // A source lasts as long as the interface that it was taken from (rule 6.1).
    for (const address of [...sources, ...walk.sessions.map((session) => session.original)])
      if (address) this.addOwners(address);
    for (const hop of walk.hops) {
      this.sink.device(hop.device);
      if (hop.in >= 0) this.sink.interface(hop.in);
      if (hop.out >= 0) this.sink.interface(hop.out);
      if (hop.translated) this.addSources(hop.device, hop.translated, hop.out);
      for (const address of destinations) this.addLookup(hop.device, address);
      if (this.network.devices[hop.device].profile.returnPath === "off") continue;
      for (const address of sources) if (address) this.addLookup(hop.device, address);
    }
    if (walk.drop && walk.drop.neighbour >= 0) this.sink.interface(walk.drop.neighbour);
  }

  /** Rule 6.1: for IPv6 any interface may lend the source, for IPv4 any where the one that is left by has none. */
  private addSources(device: number, { family }: Address, out: number) {
    if (family === 4 && out >= 0 && addressesOf(this.network, out, 4).length) return;
    const { firstInterface, endInterface } = this.network.devices[device];
    for (let i = firstInterface; i < endInterface; i++)
      if (addressesOf(this.network, i, family).length) this.sink.interface(i);
  }

  private addOwners(address: Address) {
    for (const i of ownersOf(this.network, address)) this.sink.interface(i);
  }

  private addLookup(device: number, address: Address) {
    const found = this.relevances.of(device, address);
    if (this.lookups.has(found)) return;
    this.lookups.add(found);
    for (const i of found.interfaces) this.sink.interface(i);
    for (const w of found.watches) this.sink.watch(w);
    for (const c of found.answering) this.sink.answering(c);
  }
}
