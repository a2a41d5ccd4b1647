import { addTo } from "../collections/index.ts";
import { actionCodes, type DeviceRecord, type Network } from "../network/index.ts";
import { isAttachment, mayCarryNextHop } from "./attachment.ts";
import { inCircles } from "./circles.ts";
import { reasonOf } from "./codes.ts";

/** The deepest chain of next hops that is followed (rule 4.3). */
const MAX_DEPTH = 16;

/** Resolves next hops without an interface (rule 4.3). `usable` holds 1, -1, or 0 (unresolved, listed in `open`) for
 * each candidate of the device; none is 0 afterwards. The result is independent of the order of devices and routes: a
 * candidate is settled once all its dependencies are, and candidates that depend on each other in a loop are unusable.
 * */
export function resolveNextHops(
  network: Network,
  device: DeviceRecord,
  usable: Int8Array,
  tables: Resolving,
  open: readonly number[],
) {
  if (open.length) new Resolution(network, device.firstCandidate, usable, tables).run(open);
}

/** What resolution writes, by candidate of the device. */
interface Resolving {
  readonly reason: Uint8Array;
  readonly through: Int32Array;
  readonly depth: Uint8Array;
}

class Resolution {
  /** Candidates that wait, by one that each of them waits on. */
  private waiters: Map<number, number[]> | null = null;
  private readonly ready: number[] = [];

  constructor(
    private readonly network: Network,
    private readonly first: number,
    private readonly usable: Int8Array,
    private readonly tables: Resolving,
  ) {}

  run(open: readonly number[]) {
    const { usable, ready, tables } = this;
    for (const i of open) ready.push(i);
    for (;;) {
      for (let i = ready.pop(); i !== undefined; i = ready.pop()) {
        if (usable[i] !== 0) continue;
        const blocker = this.settle(i);
        if (blocker === null) this.wake(i);
        else {
          this.waiters ??= new Map();
          addTo(this.waiters, blocker, i);
        }
      }
      if (!this.waiters?.size) break;
      const waiting = [...this.waiters.values()].flat().filter((i) => usable[i] === 0);
      if (waiting.length === 0) break;
      for (const i of inCircles(waiting, (w) => this.waitsOn(w, tables.through[w]))) {
        this.refuse(i, "next-hop-circular");
        this.wake(i);
      }
    }
  }

  private wake(decided: number) {
    const woken = this.waiters?.get(decided);
    if (!woken) return;
    for (const i of woken) this.ready.push(i);
    this.waiters?.delete(decided);
  }

  private refuse(i: number, code: Parameters<typeof reasonOf>[0]) {
    this.usable[i] = -1;
    this.tables.reason[i] = reasonOf(code);
  }

  /** Decides one candidate where all that it rests on is decided, and gives null; else one that it must wait on. */
  private settle(i: number): number | null {
    const { usable, tables, first } = this;
    const group = this.restsOn(i);
    tables.through[i] = group;
    if (group === -1) {
      this.refuse(i, "next-hop-unresolved");
      return null;
    }
    const { candidates, groups } = this.network;
    const rule = candidates.resolve[first + i];
    let blocker: number | null = null;
    let deepest = 0;
    let leads = false;
    for (let c = groups.start[group]; c < groups.start[group + 1]; c++) {
      if (!mayCarryNextHop(this.network, c, rule)) continue;
      const k = c - first;
      if (usable[k] === 0) blocker ??= k;
      if (usable[k] !== 1) continue;
      // A usable attachment ends the chain, whatever else is open.
      if (isAttachment(this.network, c)) {
        usable[i] = 1;
        tables.depth[i] = 1;
        return null;
      }
      if (candidates.action[c] === actionCodes.forward) leads = true;
      deepest = Math.max(deepest, tables.depth[k]);
    }
    if (blocker !== null) return blocker;
    tables.depth[i] = deepest + 1;
    if (tables.depth[i] > MAX_DEPTH) this.refuse(i, "next-hop-chain-too-deep");
    else if (!leads) this.refuse(i, "next-hop-discarded");
    else usable[i] = 1;
    return null;
  }

  /** The longest destination that holds the next hop and is, or may yet be, usable; -1 for none. */
  private restsOn(i: number): number {
    const { candidates } = this.network;
    const c = this.first + i;
    for (let k = candidates.coverStart[c]; k < candidates.coverStart[c + 1]; k++)
      if (this.mayCarry(candidates.cover[k], candidates.resolve[c])) return candidates.cover[k];
    return -1;
  }

  /** Whether a group has a member that carries next hops by such a rule and is, or may yet be, usable. */
  private mayCarry(group: number, rule: number): boolean {
    const { groups } = this.network;
    for (let c = groups.start[group]; c < groups.start[group + 1]; c++)
      if (this.usable[c - this.first] >= 0 && mayCarryNextHop(this.network, c, rule)) return true;
    return false;
  }

  /** Members of a group that are still open; none where a usable attachment ends the chain anyway. */
  private waitsOn(i: number, group: number): number[] {
    const { groups, candidates } = this.network;
    const rule = candidates.resolve[this.first + i];
    const open: number[] = [];
    for (let c = groups.start[group]; c < groups.start[group + 1]; c++) {
      const usable = this.usable[c - this.first];
      if (usable < 0 || !mayCarryNextHop(this.network, c, rule)) continue;
      if (usable === 0) open.push(c - this.first);
      else if (isAttachment(this.network, c)) return [];
    }
    return open;
  }
}
