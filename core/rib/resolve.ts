import { actionCodes, type DeviceRecord, type Network } from "../network/index.ts";
import { isAttachment, mayCarryNextHop } from "./attachment.ts";
import { inCircles } from "./circles.ts";
import { reasonOf } from "./codes.ts";

/** The deepest chain of next hops that is followed (rule 4.3). */
const MAX_DEPTH = 16;

/**
 * Resolves next hops that name no interface (rule 4.3). `usable` holds, for each candidate of the device,
 * 1, -1, or 0 where its next hop is yet to be resolved; afterwards none is 0. What is decided does not
 * depend on the order of devices or routes: candidates are settled once everything that they rest on is,
 * and those that rest on each other in a circle are unusable.
 */
export function resolveNextHops(
  network: Network,
  device: DeviceRecord,
  usable: Int8Array,
  tables: { reason: Uint8Array; detail: Int32Array; through: Int32Array },
) {
  const { candidates, groups } = network;
  const first = device.firstCandidate;
  const depth = new Uint8Array(usable.length);
  /** Candidates that wait, by one that each of them waits on. */
  const waiters = new Map<number, number[]>();
  const ready: number[] = [];
  for (let i = 0; i < usable.length; i++) if (usable[i] === 0) ready.push(i);

  for (;;) {
    for (let i = ready.pop(); i !== undefined; i = ready.pop()) {
      if (usable[i] !== 0) continue;
      const blocker = settle(i);
      if (blocker === null) wake(i);
      else waiters.set(blocker, [...(waiters.get(blocker) ?? []), i]);
    }
    const waiting = [...waiters.values()].flat().filter((i) => usable[i] === 0);
    if (waiting.length === 0) break;
    for (const i of inCircles(waiting, (w) => waitsOn(w, tables.through[w]))) {
      refuse(i, "next-hop-circular");
      wake(i);
    }
  }

  function wake(decided: number) {
    for (const i of waiters.get(decided) ?? []) ready.push(i);
    waiters.delete(decided);
  }

  function refuse(i: number, code: Parameters<typeof reasonOf>[0]) {
    usable[i] = -1;
    tables.reason[i] = reasonOf(code);
  }

  /** Decides one candidate where all that it rests on is decided, and gives null; else one that it must wait on. */
  function settle(i: number): number | null {
    const group = restsOn(i);
    if (group === -1) {
      refuse(i, "next-hop-unresolved");
      return null;
    }
    tables.through[i] = group;
    const [blocker] = waitsOn(i, group);
    if (blocker !== undefined) return blocker;
    let deepest = 0;
    let leads = false;
    for (const k of carriers(i, group)) {
      if (usable[k] !== 1) continue;
      if (isAttachment(network, first + k)) {
        usable[i] = 1;
        depth[i] = 1;
        return null;
      }
      if (candidates.action[first + k] === actionCodes.forward) leads = true;
      deepest = Math.max(deepest, depth[k]);
    }
    depth[i] = deepest + 1;
    if (depth[i] > MAX_DEPTH) refuse(i, "next-hop-chain-too-deep");
    else if (!leads) refuse(i, "next-hop-discarded");
    else usable[i] = 1;
    return null;
  }

  /** The longest destination that holds the next hop and is, or may yet be, usable; -1 for none. */
  function restsOn(i: number): number {
    const c = first + i;
    for (let k = candidates.coverStart[c]; k < candidates.coverStart[c + 1]; k++) {
      const group = candidates.cover[k];
      if (carriers(i, group).some((m) => usable[m] >= 0)) return group;
    }
    return -1;
  }

  function carriers(i: number, group: number): number[] {
    const list: number[] = [];
    const rule = candidates.resolve[first + i];
    for (let c = groups.start[group]; c < groups.start[group + 1]; c++) {
      if (mayCarryNextHop(network, c, rule)) list.push(c - first);
    }
    return list;
  }

  /** Members of a group that are still open; none where a usable attachment ends the chain anyway. */
  function waitsOn(i: number, group: number): number[] {
    const members = carriers(i, group);
    if (members.some((m) => usable[m] === 1 && isAttachment(network, first + m))) return [];
    return members.filter((m) => usable[m] === 0);
  }
}
