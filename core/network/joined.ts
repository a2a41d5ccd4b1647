import { copyColumns, type OwnColumns, ownColumns } from "./columns.ts";
import { numbered, type Wired } from "./layout.ts";
import type { Candidates, DeviceLayout, Groups } from "./network.ts";

/** The numbers of a device's first interface and watch among all. */
export interface Firsts {
  readonly firstInterface: number;
  readonly firstWatch: number;
}

/** Where a device's candidates and groups lie among all. */
export interface Span {
  readonly firstCandidate: number;
  readonly endCandidate: number;
  readonly firstGroup: number;
  readonly endGroup: number;
}

/** Data reused from the network that this one was edited from. */
export interface JoinedBefore {
  readonly layouts: readonly DeviceLayout[];
  readonly joined: Joined;
  readonly firsts: readonly Firsts[];
  /** Whether its interfaces and links have the same numbers. */
  readonly samePorts: boolean;
}

/** The devices' candidates in columns, one device after the other. */
export interface Joined {
  readonly candidates: Candidates;
  readonly groups: Groups;
  readonly spans: readonly Span[];
}

/**
 * Lays the devices' candidates into columns. `firsts` are the numbers of their first
 * interfaces and watches. `like` are those of the network that this one was edited from: devices
 * beside each other that the edit left alone are copied together. Time O(n), a few copies where an edit is small.
 */
export function joinLayouts(
  layouts: readonly DeviceLayout[],
  firsts: readonly Firsts[],
  ports: Wired,
  like: JoinedBefore | null,
): Joined {
  const joining = new Joining(layouts, firsts, ports);
  for (let d = 0; d < layouts.length; ) {
    let end = d;
    while (like && end < layouts.length && layouts[end] === like.layouts[end]) end++;
    if (like && end > d) joining.copy(d, end, like);
    else joining.place(end++);
    d = end;
  }
  return joining.joined();
}

class Joining {
  private readonly columns: OwnColumns;
  private readonly placed: Omit<Candidates, keyof OwnColumns | "count" | "protocols">;
  private readonly groups: { readonly start: Int32Array; readonly table: Int32Array };
  private readonly protocols = new Map<string, number>();
  private readonly spans: Span[] = [];
  /** The next candidate, group, place among the covers, and slot. */
  private c = 0;
  private g = 0;
  private k = 0;
  private slot = 0;

  constructor(
    private readonly layouts: readonly DeviceLayout[],
    private readonly firsts: readonly Firsts[],
    private readonly ports: Wired,
  ) {
    let [count, groupCount, slots, covers] = [0, 0, 0, 0];
    for (const layout of layouts) {
      count += layout.count;
      groupCount += layout.groupStart.length;
      slots += layout.answering.length;
      covers += layout.cover.length;
    }
    this.columns = ownColumns(count);
    this.placed = {
      device: new Int32Array(count),
      group: new Int32Array(count),
      protocol: new Int32Array(count),
      answer: new Int32Array(count).fill(-1),
      answering: new Int32Array(slots),
      coverStart: new Int32Array(count + 1),
      cover: new Int32Array(covers),
    };
    this.groups = { start: new Int32Array(groupCount + 1), table: new Int32Array(groupCount) };
  }

  /** Lays one device's candidates. */
  place(d: number) {
    const { c, g, k, placed } = this;
    const layout = this.layouts[d];
    copyColumns(this.columns, layout.columns, c);
    placed.device.fill(d, c, c + layout.count);
    const codes = layout.protocols.map((protocol) => numbered(this.protocols, protocol));
    for (let i = 0; i < layout.count; i++) {
      placed.group[c + i] = g + layout.group[i];
      placed.protocol[c + i] = layout.protocol[i] < 0 ? -1 : codes[layout.protocol[i]];
      placed.coverStart[c + i] = k + layout.coverStart[i];
    }
    this.renumber(d);
    for (const i of layout.answering) this.answer(c + i);
    const { cover, groupStart, groupTable } = layout;
    copyShifted(placed.cover, cover, k, 0, cover.length, g);
    copyShifted(this.groups.start, groupStart, g, 0, groupStart.length, c);
    for (let i = 0; i < groupTable.length; i++) this.groups.table[g + i] = groupTable[i];
    this.span(layout);
  }

  /** Copies devices from `first` up to `end` as they stand among those of another network. */
  copy(first: number, end: number, { joined, firsts, samePorts }: JoinedBefore) {
    const { candidates, groups, spans } = joined;
    const { c, g, k, placed } = this;
    const { firstCandidate: from, firstGroup } = spans[first];
    const { endCandidate: to, endGroup } = spans[end - 1];
    copyColumns(this.columns, candidates, c, from, to);
    placed.device.set(candidates.device.subarray(from, to), c);
    copyShifted(placed.group, candidates.group, c, from, to, g - firstGroup);
    copyShifted(placed.coverStart, candidates.coverStart, c, from, to, k - candidates.coverStart[from]);
    const [coverFrom, coverTo] = [candidates.coverStart[from], candidates.coverStart[to]];
    copyShifted(placed.cover, candidates.cover, k, coverFrom, coverTo, g - firstGroup);
    copyShifted(this.groups.start, groups.start, g, firstGroup, endGroup, c - from);
    this.groups.table.set(groups.table.subarray(firstGroup, endGroup), g);
    for (let n = firstFrom(candidates.answering, from); candidates.answering[n] < to; n++)
      this.answer(c + candidates.answering[n] - from);
    this.copyProtocols(candidates, from, to);
    // Devices that are left alone have as many watches as before: they all count on from the first.
    const renumbered = !samePorts || this.firsts[first].firstWatch !== firsts[first].firstWatch;
    for (let d = first; d < end; d++) {
      if (renumbered) this.renumber(d);
      this.span(this.layouts[d]);
    }
  }

  /** The protocols of candidates from one up to another, numbered as they come. */
  private copyProtocols({ protocol, protocols }: Candidates, from: number, to: number) {
    const { c, placed } = this;
    if (protocols.length === 0) {
      placed.protocol.fill(-1, c, c + to - from);
      return;
    }
    for (let i = from; i < to; i++)
      placed.protocol[c + i - from] = protocol[i] < 0 ? -1 : numbered(this.protocols, protocols[protocol[i]]);
  }

  /** Watches and interfaces count from the network's first, where a device's own count from its first. */
  private renumber(d: number) {
    const { out, peer, watch } = this.layouts[d].columns;
    const { firstInterface, firstWatch } = this.firsts[d];
    const { interfaces, links } = this.ports;
    const { c, columns } = this;
    for (let i = 0; i < watch.length; i++) {
      columns.watch[c + i] = watch[i] < 0 ? -1 : firstWatch + watch[i];
      columns.out[c + i] = out[i] < 0 ? -1 : firstInterface + out[i];
      const start = peer[i] < 0 ? -1 : links.endStart[interfaces.link[firstInterface + out[i]]];
      columns.peer[c + i] = start < 0 ? -1 : links.ends[start + peer[i]];
    }
  }

  private answer(c: number) {
    this.placed.answer[c] = this.slot;
    this.placed.answering[this.slot++] = c;
  }

  private span(layout: DeviceLayout) {
    const [c, g] = [this.c + layout.count, this.g + layout.groupStart.length];
    this.spans.push({ firstCandidate: this.c, endCandidate: c, firstGroup: this.g, endGroup: g });
    this.c = c;
    this.g = g;
    this.k += layout.cover.length;
  }

  joined(): Joined {
    const { c, g, k, placed, groups, columns, spans } = this;
    placed.coverStart[c] = k;
    groups.start[g] = c;
    const candidates = { count: c, protocols: [...this.protocols.keys()], ...columns, ...placed };
    return { candidates, groups: { count: g, ...groups }, spans };
  }
}

/** The position of the first number that is at least `least` in an ascending list; the length if there is none. */
function firstFrom(ascending: Int32Array, least: number): number {
  let [low, high] = [0, ascending.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (ascending[middle] < least) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Copies numbers from one place up to another to place `at`, each with so much added. */
function copyShifted(into: Int32Array, from: Int32Array, at: number, start: number, end: number, by: number) {
  if (by === 0) into.set(from.subarray(start, end), at);
  else for (let i = start; i < end; i++) into[at + i - start] = from[i] + by;
}
