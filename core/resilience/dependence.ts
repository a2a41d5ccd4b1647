import type { Address } from "../address/index.ts";
import { outerPacket, probeSending } from "../convergence/index.ts";
import { type Question, type Trip, type Walk, type World, walkBothWays } from "../forwarding/index.ts";
import { findNeighbour, type Network, ownersOf, viaOf } from "../network/index.ts";
import { Relevances } from "./relevance.ts";

/** What an answer rests on, by number. */
export interface Inputs {
  readonly devices: ReadonlySet<number>;
  readonly interfaces: ReadonlySet<number>;
  readonly watches: ReadonlySet<number>;
}

/**
 * Finds what answers rest on (rule 10.4): the devices that a flow's walks visit, the links that they take,
 * what the lookups on the way can depend on, and, as far as those rest on probes, sessions, neighbours or
 * tunnels, what these in turn rest on. A failure that touches none of it cannot change the answer.
 */
export class Dependence {
  private readonly relevances: Relevances;

  constructor(private readonly network: Network) {
    this.relevances = new Relevances(network);
  }

  /** The inputs of a trip that answers a question in a world. */
  behind(world: World, question: Question, trip: Trip): Inputs {
    return new Collector(world, this.network, this.relevances).trip(question, trip).inputs;
  }
}

class Collector {
  readonly inputs = {
    devices: new Set<number>(),
    interfaces: new Set<number>(),
    watches: new Set<number>(),
  };
  private readonly lookups = new Set<unknown>();

  constructor(
    private readonly world: World,
    private readonly network: Network,
    private readonly relevances: Relevances,
  ) {}

  trip(question: Question, trip: Trip): this {
    this.inputs.devices.add(question.device);
    if (question.pinned) this.addInterface(question.pinned.out);
    if (question.zone !== undefined) this.addInterface(question.zone);
    this.addLookup(question.device, question.destination);
    if (question.source) this.addOwners(question.source);
    for (const { outbound, reply } of trip.branches) {
      this.addWalk(outbound, [question.destination], question.source);
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
      this.inputs.devices.add(hop.device);
      if (hop.in >= 0) this.addInterface(hop.in);
      if (hop.out >= 0) this.addInterface(hop.out);
      for (const address of destinations) this.addLookup(hop.device, address);
      if (this.network.devices[hop.device].profile.returnPath === "off") continue;
      for (const address of sources) if (address) this.addLookup(hop.device, address);
    }
    if (walk.drop && walk.drop.neighbour >= 0) this.addInterface(walk.drop.neighbour);
  }

  private addOwners(address: Address) {
    for (const i of ownersOf(this.network, address)) this.addInterface(i);
  }

  private addLookup(device: number, address: Address) {
    const found = this.relevances.of(device, address);
    if (this.lookups.has(found)) return;
    this.lookups.add(found);
    for (const i of found.interfaces) this.addInterface(i);
    for (const w of found.watches) this.addWatch(w);
    for (const c of found.answering) this.addNeighbour(c);
  }

  private addInterface(i: number) {
    if (this.inputs.interfaces.has(i)) return;
    this.inputs.interfaces.add(i);
    const tunnel = this.network.interfaces.tunnel[i];
    if (tunnel < 0) return;
    const record = this.network.tunnels[tunnel];
    const { peer } = record;
    this.ask(outerPacket(this.network, record));
    // A tunnel is up by its own keepalives, its link passes by those of both ends.
    if (peer >= 0) this.addInterface(peer);
  }

  private addWatch(w: number) {
    if (this.inputs.watches.has(w)) return;
    this.inputs.watches.add(w);
    const record = this.network.watches[w];
    this.inputs.devices.add(record.device);
    const { watch } = record;
    if (watch.kind === "group") for (const member of record.members) this.addWatch(member);
    else if (watch.kind === "probe") {
      if (record.probe && record.probe.out >= 0) this.addInterface(record.probe.out);
      const sending = probeSending(this.world, record);
      if (sending) this.ask(sending);
    } else {
      this.addInterface(record.port);
      if (record.partner >= 0) this.addWatch(record.partner);
    }
  }

  private ask(question: Question) {
    this.trip(question, walkBothWays(this.world, question));
  }

  /** The interface by which a neighbour is reached, and its own: their life decides whether it answers. */
  private addNeighbour(c: number) {
    const { candidates, devices } = this.network;
    const via = viaOf(this.network, c);
    const { firstInterface, endInterface } = devices[candidates.device[c]];
    const out = candidates.out[c];
    for (let i = out >= 0 ? out : firstInterface; i < (out >= 0 ? out + 1 : endInterface); i++) {
      const neighbour = findNeighbour(this.world.state, i, via, out >= 0 ? candidates.peer[c] : -1);
      if (neighbour.interface < 0) continue;
      this.addInterface(i);
      this.addInterface(neighbour.interface);
      this.inputs.devices.add(this.network.interfaces.device[neighbour.interface]);
    }
  }
}
