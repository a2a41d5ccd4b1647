import { onceFor } from "../collections/index.ts";
import { ownerOnLink, type State } from "../network/index.ts";
import { type InputSink, TripInputs, type World } from "../walk/index.ts";
import { changeBetween, type StateChange } from "./changes.ts";
import {
  outerPacket,
  readTunnel,
  readTunnels,
  type TunnelReading,
  tunnelBitOf,
  tunnelBitsOf,
  tunnelsUnder,
} from "./tunnels.ts";
import { failedWatchesOf, probeSending, readWatch, readWatches } from "./watches.ts";

/**
 * What all watches and tunnels read in one world, and what each of these readings rests on: in any other world of the
 * network only those are read again that rest on something which differs there.
 */
class Readings {
  private readonly watches: Uint8Array;
  private readonly tunnels: readonly TunnelReading[];
  /** The tunnels' bits, assuming that none leads into itself. */
  private readonly bits: Uint8Array;
  private readonly anyIntoItself: boolean;
  /** Tunnels by the one that is their far end. */
  private readonly nearEnds: Subjects = [];
  private readonly failedWatches: ReadonlySet<number>;
  /** How the state that was asked for last differs. */
  private last: { state: State; change: StateChange } | null = null;
  /** 1 for each subject that is yet to be read; nothing between two questions. */
  private readonly open: Uint8Array;
  /** The subjects that were opened, as far as `foundCount`. */
  private readonly found: Int32Array;
  private foundCount = 0;
  /** Subjects by dependency: watches by number, tunnels after all watches. */
  private readonly by = {
    device: [] as Subjects,
    interface: [] as Subjects,
    watch: [] as Subjects,
    answer: [] as Subjects,
    /** Subjects that depend on everything a device sees locally. */
    local: [] as Subjects,
    /** Watches that are read from others: groups from their members, sessions from their partners. */
    reading: [] as Subjects,
  };

  constructor(private readonly base: World) {
    const { network, failed } = base.state;
    this.failedWatches = failedWatchesOf(network, failed);
    this.open = new Uint8Array(network.watches.length + network.tunnels.length);
    this.found = new Int32Array(this.open.length);
    this.watches = readWatches(base);
    this.tunnels = network.tunnels.map((tunnel) => readTunnel(base, tunnel));
    this.anyIntoItself = this.tunnels.some(({ leadsIntoItself }) => leadsIntoItself);
    this.bits = Uint8Array.from(network.tunnels, (_, t) => tunnelBitOf(network, t, (k) => this.tunnels[k]));
    for (const { index, peer } of network.tunnels)
      if (peer >= 0) add(this.nearEnds, network.interfaces.tunnel[peer], index);
    for (const { index } of network.watches) this.restWatch(index);
    for (const tunnel of network.tunnels) {
      const sink = this.sinkFor(network.watches.length + tunnel.index);
      for (const one of tunnelsUnder(base, tunnel).add(tunnel))
        new TripInputs(network, sink).ask(base, outerPacket(network, one));
    }
  }

  /** What each watch reads in a world of the same network (rules 9.1 to 9.4). */
  watchesIn(world: World): Uint8Array {
    const { network } = this.base.state;
    const failed = failedWatchesOf(network, world.state.failed);
    const up = this.watches.slice();
    const { open, found } = this;
    this.find(this.changeTo(world), failed);
    // Subjects that are read from others come after these, and so on.
    for (let n = 0; n < this.foundCount; n++) this.take(this.by.reading[found[n]]);
    const read = (index: number): number => {
      if (open[index]) {
        open[index] = 0;
        up[index] = readWatch(world, index, failed, read);
      }
      return up[index];
    };
    for (let n = 0; n < this.foundCount; n++) {
      if (found[n] < network.watches.length) read(found[n]);
      else open[found[n]] = 0;
    }
    return up;
  }

  /** The condition of each tunnel in a world (rule 2.5), starting without known self-recursive tunnels and adding those
   * found. */
  tunnelsIn(world: World, selfTunnels: Set<number>): Uint8Array {
    const { network, tunnelPasses } = world.state;
    const first = network.watches.length;
    const now = new Map<number, TunnelReading>();
    this.find(this.changeTo(world), this.failedWatches);
    for (const subject of this.found.slice(0, this.foundCount)) {
      this.open[subject] = 0;
      if (subject >= first) now.set(subject - first, readTunnel(world, network.tunnels[subject - first]));
    }
    const reading = (t: number) => now.get(t) ?? this.tunnels[t];
    if (this.anyIntoItself || [...now.values()].some(({ leadsIntoItself }) => leadsIntoItself)) {
      const all = this.tunnels.map((_, t) => reading(t));
      return tunnelBitsOf(network, all, tunnelPasses, selfTunnels);
    }
    const bits = this.bits.slice();
    for (const t of now.keys()) {
      bits[t] = tunnelBitOf(network, t, reading);
      for (const near of this.nearEnds[t] ?? []) bits[near] = tunnelBitOf(network, near, reading);
    }
    return bits;
  }

  private changeTo({ state }: World): StateChange {
    if (this.last?.state !== state)
      this.last = { state, change: changeBetween(this.base.state, state, this.last) };
    return this.last.change;
  }

  /** Adds those subjects that are not open yet, and opens them. */
  private take(subjects: readonly number[] | undefined) {
    if (!subjects) return;
    for (const subject of subjects) {
      if (this.open[subject]) continue;
      this.open[subject] = 1;
      this.found[this.foundCount++] = subject;
    }
  }

  /** Finds the subjects that rest on a change; they are open afterwards. */
  private find(change: StateChange, failed: ReadonlySet<number>) {
    const { by } = this;
    this.foundCount = 0;
    const { devices, interfaces, candidates, watches } = this.base.state.network;
    for (const d of change.devices) {
      this.take(by.device[d]);
      this.take(by.local[d]);
      // A dead device includes its interfaces, even if they are not listed.
      for (let i = devices[d].firstInterface; i < devices[d].endInterface; i++) this.take(by.interface[i]);
    }
    for (const i of change.interfaces) {
      this.take(by.interface[i]);
      this.take(by.local[interfaces.device[i]]);
    }
    for (const w of change.watches) {
      this.take(by.watch[w]);
      this.take(by.local[watches[w].device]);
    }
    for (const slot of change.answers) {
      this.take(by.answer[slot]);
      this.take(by.local[candidates.device[candidates.answering[slot]]]);
    }
    for (const w of failed) if (!this.failedWatches.has(w)) this.take([w]);
    for (const w of this.failedWatches) if (!failed.has(w)) this.take([w]);
  }

  /** What a watch rests on. */
  private restWatch(index: number) {
    const { network } = this.base.state;
    const record = network.watches[index];
    const sink = this.sinkFor(index);
    sink.device(record.device);
    for (const member of record.members) add(this.by.reading, member, index);
    if (record.port >= 0) sink.interface(record.port);
    if (record.partner >= 0) {
      const partner = network.watches[record.partner];
      sink.interface(partner.port);
      // The partner's session failure decides, not its reading; only the reading needs to be repeated.
      add(this.by.reading, record.partner, index);
      const owner = ownerOnLink(network, record.port, record.peer, -1);
      if (owner >= 0) sink.interface(owner);
    }
    // A watched route rests on all that its device sees.
    if (record.route) add(this.by.local, record.device, index);
    if (!record.probe) return;
    const { out, via, sourcePort } = record.probe;
    if (out >= 0) sink.interface(out);
    if (sourcePort >= 0) sink.interface(sourcePort);
    // Pinned to an interface alone, it follows the longest route that leaves by it, in use or not.
    if (out >= 0 && !via) add(this.by.local, record.device, index);
    const sending = probeSending(this.base, record);
    if (sending) new TripInputs(network, sink).ask(this.base, sending);
  }

  private sinkFor(subject: number): InputSink {
    const { answer } = this.base.state.network.candidates;
    return {
      device: (d) => add(this.by.device, d, subject),
      interface: (i) => add(this.by.interface, i, subject),
      watch: (w) => add(this.by.watch, w, subject),
      answering: (c) => add(this.by.answer, answer[c], subject),
    };
  }
}

/** Subjects by the number of their dependency. */
type Subjects = (number[] | undefined)[];

function add(map: Subjects, key: number, subject: number) {
  const list = map[key];
  if (!list) map[key] = [subject];
  else if (list[list.length - 1] !== subject) list.push(subject);
}

const readingsOf = onceFor((world: World) => new Readings(world));

/** Like `readWatches`, but reads only watches whose dependencies differ from a nearby world. */
export function watchesNear(near: World, world: World): Uint8Array {
  if (world.state.network.watches.length === 0) return nothing;
  return near === world ? readWatches(world) : readingsOf(near).watchesIn(world);
}

/** As `readTunnels`, likewise. */
export function tunnelsNear(near: World, world: World, selfTunnels: Set<number>): Uint8Array {
  if (world.state.network.tunnels.length === 0) return nothing;
  if (near === world || selfTunnels.size) return readTunnels(world, selfTunnels);
  return readingsOf(near).tunnelsIn(world, selfTunnels);
}

const nothing = new Uint8Array(0);
