import { addTo, Marks, onceFor } from "../collections/index.ts";
import { endsOf, findNeighbour, type Network, ownVirtualsOf, viaOf } from "../network/index.ts";
import { asIfActive, outerPacket, probeSending } from "../settle/index.ts";
import { type Question, TripInputs, type World } from "../walk/index.ts";

/** What an answer rests on, by number. */
export class Inputs {
  readonly devices: Marks;
  readonly interfaces: Marks;
  readonly watches: Marks;

  constructor({ devices, interfaces, watches }: Network) {
    this.devices = new Marks(devices.length);
    this.interfaces = new Marks(interfaces.count);
    this.watches = new Marks(watches.length);
  }

  empty(): this {
    for (const marks of [this.devices, this.interfaces, this.watches]) marks.empty();
    return this;
  }

  addAll(others: Inputs) {
    for (const key of ["devices", "interfaces", "watches"] as const)
      others[key].each((one) => this[key].add(one));
  }
}

/**
 * Finds what answers rest on (rule 10.4): the devices that a flow's walks visit, the links that they take,
 * what the lookups on the way can depend on, and, as far as those rest on probes, sessions, neighbours or
 * tunnels, what these in turn rest on. A failure that touches none of it cannot change the answer.
 */
export class Dependence {
  private readonly inputs: Inputs;

  constructor(private readonly network: Network) {
    this.inputs = new Inputs(network);
  }

  /**
   * What the answer in `variant` rests on, until it is asked again; `world` is the one in which watches and tunnels were
   * read.
   */
  behind(world: World, question: Question, variant: World): Inputs {
    return new Collector(world, this.network, this.inputs.empty()).answer(question, variant).inputs;
  }
}

/** Virtual routers by the link that they stand on. */
const virtualsOn = onceFor(({ virtualGroups }: Network) => {
  const found = new Map<number, number[]>();
  for (const { link, members } of virtualGroups) for (const v of members) addTo(found, link, v);
  return found;
});

class Collector {
  private readonly read: TripInputs;
  private readonly virtuals: Set<number>;
  private readonly pairs: Set<number>;

  /** `within`: the collector that asks of another world, whose elections are looked at there. */
  constructor(
    private readonly world: World,
    private readonly network: Network,
    /** Receives the results. */
    readonly inputs: Inputs,
    within: Collector | null = null,
  ) {
    this.virtuals = within?.virtuals ?? new Set();
    this.pairs = within?.pairs ?? new Set();
    this.read = new TripInputs(network, {
      device: (d) => this.inputs.devices.add(d),
      interface: (i) => this.addInterface(i),
      watch: (w) => this.addWatch(w),
      answering: (c) => this.addNeighbour(c),
    });
  }

  answer(question: Question, world: World): this {
    this.read.ask(world, question);
    return this;
  }

  private addInterface(i: number) {
    if (!this.inputs.interfaces.add(i)) return;
    this.addBuilt(i);
    this.addRoles(i);
    const tunnel = this.network.interfaces.tunnel[i];
    if (tunnel < 0) return;
    const record = this.network.tunnels[tunnel];
    const { peer } = record;
    this.answer(outerPacket(this.network, record), this.world);
    // A tunnel is up by its own keepalives, its link passes by those of both ends.
    if (peer >= 0) this.addInterface(peer);
  }

  /** What an interface is made of: a bundle's members, the one that its tag passes (rule 15). */
  private addBuilt(i: number) {
    const { interfaces, bundles } = this.network;
    if (interfaces.parent[i] >= 0) this.addInterface(interfaces.parent[i]);
    if (interfaces.bundle[i] >= 0)
      for (const m of bundles[interfaces.bundle[i]].members) this.addInterface(m);
  }

  /** Who else could answer on its link, and all that decides who does (rules 14 and 17). */
  private addRoles(i: number) {
    const { interfaces, virtuals, twin, pairPlace } = this.network;
    const link = interfaces.link[i];
    if (virtuals.length && link >= 0)
      for (const v of virtualsOn(this.network).get(link) ?? []) this.addVirtual(v);
    const place = pairPlace[interfaces.device[i]];
    if (place >= 0 && twin[i] >= 0) this.addPair(place >> 1);
  }

  private addVirtual(v: number) {
    if (this.virtuals.has(v)) return;
    this.virtuals.add(v);
    const { interface: i, together, track, group } = this.network.virtuals[v];
    this.inputs.devices.add(this.network.interfaces.device[i]);
    this.addInterface(i);
    for (const { watch, interface: port } of track) {
      if (watch >= 0) this.addWatch(watch);
      else this.addInterface(port);
    }
    for (const mate of [...together, ...this.network.virtualGroups[group].members]) this.addVirtual(mate);
  }

  private addPair(p: number) {
    if (this.pairs.has(p)) return;
    this.pairs.add(p);
    const pair = this.network.pairs[p];
    for (const link of pair.heartbeats)
      for (const end of endsOf(this.network.links, link)) this.addInterface(end);
    for (const n of [0, 1] as const) {
      const d = pair.members[n];
      this.inputs.devices.add(d);
      const { firstInterface, endInterface } = this.network.devices[d];
      for (let i = firstInterface; i < endInterface; i++) if (this.network.twin[i] >= 0) this.addInterface(i);
      for (const i of pair.monitors[n].interfaces) this.addInterface(i);
      if (pair.monitors[n].watches.length === 0) continue;
      // Devices that the standby member could not watch are treated as unwatched (rule 17.2).
      const there = new Collector(
        asIfActive(this.world, pair, n),
        this.network,
        new Inputs(this.network),
        this,
      );
      for (const w of pair.monitors[n].watches) {
        this.addWatch(w);
        there.addWatch(w);
      }
      this.inputs.addAll(there.inputs);
    }
  }

  private addWatch(w: number) {
    if (!this.inputs.watches.add(w)) return;
    const record = this.network.watches[w];
    this.inputs.devices.add(record.device);
    const { watch } = record;
    if (watch.kind === "group") for (const member of record.members) this.addWatch(member);
    else if (watch.kind === "probe") {
      if (record.probe && record.probe.out >= 0) this.addInterface(record.probe.out);
      const sending = probeSending(this.world, record);
      if (sending) this.answer(sending, this.world);
    } else if (record.route) {
      const { firstInterface, endInterface, firstWatch, endWatch } = this.network.devices[record.device];
      for (let i = firstInterface; i < endInterface; i++) this.addInterface(i);
      for (let other = firstWatch; other < endWatch; other++) this.addWatch(other);
      for (const c of this.network.candidates.answering)
        if (this.network.candidates.device[c] === record.device) this.addNeighbour(c);
    } else {
      this.addInterface(record.port);
      if (record.partner >= 0) this.addWatch(record.partner);
    }
  }

  /** The interface by which a neighbour is reached, and its own: their life decides whether it answers. */
  private addNeighbour(c: number) {
    const { candidates, devices } = this.network;
    for (const { index } of ownVirtualsOf(this.network, c)) this.addVirtual(index);
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
