import { outerPacket, probeSending } from "../convergence/index.ts";
import { type Question, type Trip, TripInputs, type World, walkBothWays } from "../forwarding/index.ts";
import { findNeighbour, type Network, viaOf } from "../network/index.ts";

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
  constructor(private readonly network: Network) {}

  /** The inputs of a trip that answers a question in a world. */
  behind(world: World, question: Question, trip: Trip): Inputs {
    return new Collector(world, this.network).trip(question, trip).inputs;
  }
}

class Collector {
  readonly inputs = {
    devices: new Set<number>(),
    interfaces: new Set<number>(),
    watches: new Set<number>(),
  };
  private readonly read: TripInputs;

  constructor(
    private readonly world: World,
    private readonly network: Network,
  ) {
    this.read = new TripInputs(network, {
      device: (d) => this.inputs.devices.add(d),
      interface: (i) => this.addInterface(i),
      watch: (w) => this.addWatch(w),
      answering: (c) => this.addNeighbour(c),
    });
  }

  trip(question: Question, trip: Trip): this {
    this.read.add(question, trip);
    return this;
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
