import { type InputSink, TripInputs, type World, walkBothWays } from "../forwarding/index.ts";
import { onceFor, ownerOnLink } from "../network/index.ts";
import { changeBetween, type StateChange } from "./changes.ts";
import {
  outerPacket,
  readTunnel,
  readTunnels,
  type TunnelReading,
  tunnelBitOf,
  tunnelBitsOf,
} from "./tunnels.ts";
import { failedWatchesOf, probeSending, readWatch, readWatches } from "./watches.ts";

/**
 * What all watches and tunnels read in one world, and what each of these readings rests on: in any other world of the
 * network only those are read again that rest on something which differs there.
 */
export class Readings {
  private readonly watches: Uint8Array;
  private readonly tunnels: readonly TunnelReading[];
  /** The tunnels' bits, where none leads into itself. */
  private readonly bits: Uint8Array;
  private readonly anyIntoItself: boolean;
  /** Tunnels by the one that is their far end. */
  private readonly nearEnds = new Map<number, number[]>();
  private readonly failedWatches: ReadonlySet<number>;
  /** How the world that was asked for last differs. */
  private last: { world: World; change: StateChange } | null = null;
  /** Subjects by what they rest on: watches by their number, tunnels by theirs after all watches. */
  private readonly by = {
    device: new Map<number, number[]>(),
    interface: new Map<number, number[]>(),
    watch: new Map<number, number[]>(),
    answer: new Map<number, number[]>(),
    /** What rests on all that a device sees of itself. */
    local: new Map<number, number[]>(),
    /** Watches that are read from others: groups from their members, sessions from their partners. */
    reading: new Map<number, number[]>(),
  };

  constructor(private readonly base: World) {
    const { network, failed } = base.state;
    this.failedWatches = failedWatchesOf(network, failed);
    this.watches = readWatches(base);
    this.tunnels = network.tunnels.map((tunnel) => readTunnel(base, tunnel));
    this.anyIntoItself = this.tunnels.some(({ leadsIntoItself }) => leadsIntoItself);
    this.bits = Uint8Array.from(network.tunnels, (_, t) => tunnelBitOf(network, t, (k) => this.tunnels[k]));
    for (const { index, peer } of network.tunnels)
      if (peer >= 0) add(this.nearEnds, network.interfaces.tunnel[peer], index);
    for (const { index } of network.watches) this.restWatch(index);
    for (const tunnel of network.tunnels) {
      const question = outerPacket(network, tunnel);
      const sink = this.sinkFor(network.watches.length + tunnel.index);
      new TripInputs(network, sink).add(question, walkBothWays(base, question));
    }
  }

  /** What each watch reads in a world of the same network (rules 9.1 to 9.4). */
  watchesIn(world: World): Uint8Array {
    const { network } = this.base.state;
    const failed = failedWatchesOf(network, world.state.failed);
    const up = this.watches.slice();
    const dirty = this.touched(this.changeTo(world), failed);
    const open = new Set<number>();
    const mark = (index: number) => {
      if (open.has(index)) return;
      open.add(index);
      for (const other of this.by.reading.get(index) ?? []) mark(other);
    };
    for (const subject of dirty) if (subject < network.watches.length) mark(subject);
    const read = (index: number): number => {
      if (open.delete(index)) up[index] = readWatch(world, index, failed, read);
      return up[index];
    };
    for (const index of [...open]) read(index);
    return up;
  }

  /** How each tunnel fares in a world (rule 2.5), none of them known to lead into itself; those that do are added. */
  tunnelsIn(world: World, selfTunnels: Set<number>): Uint8Array {
    const { network, tunnelPasses } = world.state;
    const first = network.watches.length;
    const now = new Map<number, TunnelReading>();
    for (const subject of this.touched(this.changeTo(world), this.failedWatches)) {
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
      for (const near of this.nearEnds.get(t) ?? []) bits[near] = tunnelBitOf(network, near, reading);
    }
    return bits;
  }

  private changeTo(world: World): StateChange {
    if (this.last?.world !== world)
      this.last = { world, change: changeBetween(this.base.state, world.state) };
    return this.last.change;
  }

  private touched(change: StateChange, failed: ReadonlySet<number>): Set<number> {
    const { network } = this.base.state;
    const { devices, interfaces, candidates, watches } = network;
    const found = new Set<number>();
    const take = (map: ReadonlyMap<number, readonly number[]>, key: number) => {
      for (const subject of map.get(key) ?? []) found.add(subject);
    };
    for (const d of change.devices) {
      take(this.by.device, d);
      take(this.by.local, d);
      // A dead device takes its interfaces along, told or not.
      for (let i = devices[d].firstInterface; i < devices[d].endInterface; i++) take(this.by.interface, i);
    }
    for (const i of change.interfaces) {
      take(this.by.interface, i);
      take(this.by.local, interfaces.device[i]);
    }
    for (const w of change.watches) {
      take(this.by.watch, w);
      take(this.by.local, watches[w].device);
    }
    for (const slot of change.answers) {
      take(this.by.answer, slot);
      take(this.by.local, candidates.device[candidates.answering[slot]]);
    }
    for (const w of failed) if (!this.failedWatches.has(w)) found.add(w);
    for (const w of this.failedWatches) if (!failed.has(w)) found.add(w);
    return found;
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
      // Whether the partner's session has failed decides, not what it reads; reading it again is enough.
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
    if (sending) new TripInputs(network, sink).add(sending, walkBothWays(this.base, sending));
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

function add(map: Map<number, number[]>, key: number, subject: number) {
  const list = map.get(key);
  if (!list) map.set(key, [subject]);
  else if (list[list.length - 1] !== subject) list.push(subject);
}

const readingsOf = onceFor((world: World) => new Readings(world));

/** As `readWatches`, where only those are read that rest on what is otherwise than in a world near by. */
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
