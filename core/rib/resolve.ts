import { actionCodes, type DeviceRecord, type Network } from "../network/index.ts";
import { isAttachment, mayCarryNextHop } from "./attachment.ts";
import { inCircles } from "./circles.ts";
import { reasonOf } from "./codes.ts";

/** The deepest chain of next hops that is followed (rule 4.3). */
const MAX_DEPTH = 16;

/**
 * Resolves next hops that name no interface (rule 4.3). `usable` holds, for each candidate of the device,
 * 1, -1, or 0 where its next hop is yet to be resolved, which `open` lists; afterwards none is 0. What is decided does not
 * depend on the order of devices or routes: candidates are settled once everything that they rest on is,
 * and those that rest on each other in a circle are unusable.
 */
export function resolveNextHops(
  network: Network,
  device: DeviceRecord,
  usable: Int8Array,
  tables: Resolving,
  open: readonly number[],
) {
  new Resolution(network, device.firstCandidate, usable, tables).run(open);
}

/** What resolution writes, by candidate of the device. */
interface Resolving {
  readonly reason: Uint8Array;
  readonly through: Int32Array;
  readonly depth: Uint8Array;
}

class Resolution {
  /** Candidates that wait, by one that each of them waits on. */
  private readonly waiters = new Map<number, number[]>();
  private readonly ready: number[] = [];

  constructor(
    private readonly network: Network,
    private readonly first: number,
    private readonly usable: Int8Array,
    private readonly tables: Resolving,
  ) {}

  run(open: readonly number[]) {
    const { usable, ready, waiters, tables } = this;
    for (const i of open) ready.push(i);
    for (;;) {
      for (let i = ready.pop(); i !== undefined; i = ready.pop()) {
        if (usable[i] !== 0) continue;
        const blocker = this.settle(i);
        if (blocker === null) this.wake(i);
        else waiters.set(blocker, [...(waiters.get(blocker) ?? []), i]);
      }
      const waiting = [...waiters.values()].flat().filter((i) => usable[i] === 0);
      if (waiting.length === 0) break;
      for (const i of inCircles(waiting, (w) => this.waitsOn(w, tables.through[w]))) {
        this.refuse(i, "next-hop-circular");
        this.wake(i);
      }
    }
  }

  private wake(decided: number) {
    for (const i of this.waiters.get(decided) ?? []) this.ready.push(i);
    this.waiters.delete(decided);
  }

  private refuse(i: number, code: Parameters<typeof reasonOf>[0]) {
    this.usable[i] = -1;
    this.tables.reason[i] = reasonOf(code);
  }

  /** Decides one candidate where all that it rests on is decided, and gives null; else one that it must wait on. */
  private settle(i: number): number | null {
    const group = this.restsOn(i);
    this.tables.through[i] = group;
    if (group === -1) {
      this.refuse(i, "next-hop-unresolved");
      return null;
    }
    const [blocker] = this.waitsOn(i, group);
    if (blocker !== undefined) return blocker;
    let deepest = 0;
    let leads = false;
    for (const k of this.carriers(i, group)) {
      if (this.usable[k] !== 1) continue;
      if (isAttachment(this.network, this.first + k)) {
        this.usable[i] = 1;
        this.tables.depth[i] = 1;
        return null;
      }
      if (this.network.candidates.action[this.first + k] === actionCodes.forward) leads = true;
      deepest = Math.max(deepest, this.tables.depth[k]);
    }
    this.tables.depth[i] = deepest + 1;
    if (this.tables.depth[i] > MAX_DEPTH) this.refuse(i, "next-hop-chain-too-deep");
    else if (!leads) this.refuse(i, "next-hop-discarded");
    else this.usable[i] = 1;
    return null;
  }

  /** The longest destination that holds the next hop and is, or may yet be, usable; -1 for none. */
  private restsOn(i: number): number {
    const c = this.first + i;
    for (let k = this.network.candidates.coverStart[c]; k < this.network.candidates.coverStart[c + 1]; k++) {
      const group = this.network.candidates.cover[k];
      if (this.carriers(i, group).some((m) => this.usable[m] >= 0)) return group;
    }
    return -1;
  }

  private carriers(i: number, group: number): number[] {
    const list: number[] = [];
    const rule = this.network.candidates.resolve[this.first + i];
    for (let c = this.network.groups.start[group]; c < this.network.groups.start[group + 1]; c++) {
      if (mayCarryNextHop(this.network, c, rule)) list.push(c - this.first);
    }
    return list;
  }

  /** Members of a group that are still open; none where a usable attachment ends the chain anyway. */
  private waitsOn(i: number, group: number): number[] {
    const members = this.carriers(i, group);
    if (members.some((m) => this.usable[m] === 1 && isAttachment(this.network, this.first + m))) return [];
    return members.filter((m) => this.usable[m] === 0);
  }
}
