import type { Address } from "../address/index.ts";
import { onceFor } from "../collections/index.ts";
import { addressesOf, assumesHosts, endsOf, type Network, ownersOf } from "../network/index.ts";
import { addressBook } from "./flat/addresses.ts";
import { type PlainTrip, plainTrip } from "./flat/plain.ts";
import { type Trip, walkBothWays } from "./flow.ts";
import type { Walk } from "./packet.ts";
import { Relevances } from "./relevance.ts";
import type { Question } from "./walk.ts";
import type { World } from "./world.ts";

/** Receives the dependencies of an answer by number, possibly repeated. */
export interface InputSink {
  device(d: number): void;
  interface(i: number): void;
  watch(w: number): void;
  /** A candidate that stands only while its neighbour answers. */
  answering(c: number): void;
}

const relevancesOf = onceFor((network: Network) => new Relevances(network));

/** The parts of the state that the answer to a question depends on (rule 10.4): the visited devices, the interfaces it
 * passes or chooses its sources from, and everything its lookups can depend on. While none of it changes, the answer is
 * unchanged. */
export class TripInputs {
  private readonly relevances: Relevances;
  private readonly lookups = new Set<unknown>();

  constructor(
    private readonly network: Network,
    private readonly sink: InputSink,
  ) {
    this.relevances = relevancesOf(network);
  }

  /** Adds what the answer in a world rests on. */
  ask(world: World, question: Question): this {
    const plain = plainTrip(world, question);
    if (plain) this.addPlain(question, plain);
    else this.add(question, walkBothWays(world, question));
    return this;
  }

  private addPlain(question: Question, { source, out, back }: PlainTrip) {
    const { device, destination } = question;
    this.addPlainWay(out, destination);
    this.addPlainWay(back, source);
    if (!question.source) this.addSources(device, destination, out.exits[0]);
  }

  /** The devices of a plain way, its end among them, and their lookups of where it leads. */
  private addPlainWay({ devices, exits, entries }: PlainTrip["out"], to: Address) {
    const { device: deviceOf } = this.network.interfaces;
    const number = addressBook(this.network).numberOf(to);
    this.addOwners(to);
    for (let k = 0; k < devices.length; k++) {
      this.sink.device(devices[k]);
      this.addNumbered(devices[k], number);
      this.sink.interface(exits[k]);
      this.sink.interface(entries[k]);
    }
    const end = deviceOf[entries[entries.length - 1]];
    this.sink.device(end);
    this.addNumbered(end, number);
  }

  private add(question: Question, trip: Trip) {
    this.sink.device(question.device);
    if (question.pinned) this.sink.interface(question.pinned.out);
    if (question.zone !== undefined) this.sink.interface(question.zone);
    this.addLookup(question.device, question.destination);
    if (question.source) this.addOwners(question.source);
    for (const { outbound, reply } of trip.branches) {
      const there = outbound.sessions.flatMap((s) => (s.end === "destination" ? [s.translated] : []));
      this.addWalk(outbound, [question.destination, ...there], question.source);
      if (!question.source)
        this.addSources(question.device, question.destination, outbound.hops[0]?.out ?? -1);
      if (reply && outbound.packet) {
        const back = [outbound.packet.source, ...outbound.sessions.map((session) => session.original)];
        this.addWalk(reply, back, outbound.packet.destination);
      }
    }
  }

  private addWalk(walk: Walk, destinations: readonly Address[], source: Address | null) {
    const sources = [source, walk.packet?.source, ...walk.sessions.map((session) => session.translated)];
    // A source lasts as long as the interface that it was taken from (rule 6.1).
    for (const address of [...sources, ...walk.sessions.map((session) => session.original)])
      if (address) this.addOwners(address);
    for (const hop of walk.hops) {
      this.sink.device(hop.device);
      if (hop.in >= 0) this.sink.interface(hop.in);
      if (hop.out >= 0) this.addExit(hop.out, destinations);
      if (hop.translated) this.addSources(hop.device, hop.translated, hop.out);
      for (const address of destinations) this.addLookup(hop.device, address);
      if (this.network.devices[hop.device].profile.returnPath === "off") continue;
      for (const address of sources) if (address) this.addLookup(hop.device, address);
    }
    if (walk.drop && walk.drop.neighbour >= 0) this.sink.interface(walk.drop.neighbour);
  }

  /** An interface that is left by, and who could answer there for others by their own routes (rule 2.7). */
  private addExit(out: number, destinations: readonly Address[]) {
    this.sink.interface(out);
    const { interfaces, links } = this.network;
    if (interfaces.link[out] < 0) return;
    const hosts = assumesHosts(this.network);
    for (const end of endsOf(links, interfaces.link[out])) {
      // Any of them may be the gateway of hosts that are not drawn (rule 2.8).
      if (hosts) this.sink.interface(end);
      if (!interfaces.proxyArp[end]) continue;
      this.sink.interface(end);
      for (const address of destinations) this.addLookup(interfaces.device[end], address);
    }
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
    this.addNumbered(device, addressBook(this.network).numberOf(address));
  }

  private addNumbered(device: number, address: number) {
    const found = this.relevances.of(device, address);
    if (this.lookups.has(found)) return;
    this.lookups.add(found);
    for (const i of found.interfaces) this.sink.interface(i);
    for (const w of found.watches) this.sink.watch(w);
    for (const c of found.answering) this.sink.answering(c);
  }
}
