import { comparePrimary, type Network, type State, type VirtualRecord } from "../network/index.ts";

/** The current priority of a virtual router (rule 14.3). The owner's is never lowered; others are lowered by every
 * tracked item that is down, of their own or of routers that are Active together with them; never below 1. */
export function priorityOf(state: Pick<State, "network" | "watchUp" | "carrierUp">, v: number): number {
  const { virtuals } = state.network;
  const { owner, priority, together } = virtuals[v];
  if (owner) return priority;
  // What several track counts once.
  const lowerings = new Map<number, number>();
  for (const mate of together)
    for (const { watch, interface: i, lower } of virtuals[mate].track) {
      if (watch >= 0 ? state.watchUp[watch] : state.carrierUp[i]) continue;
      const tracked = watch >= 0 ? watch : -1 - i;
      lowerings.set(tracked, Math.max(lower, lowerings.get(tracked) ?? 0));
    }
  const lowered = [...lowerings.values()].reduce((sum, lower) => sum + lower, 0);
  return Math.max(1, priority - lowered);
}

/** Whether a virtual router takes part at all: its own interface and those of its mates are up (rule 14.7). */
export function takesPart({ network, deviceAlive, carrierUp }: State, v: number): boolean {
  const { virtuals, interfaces } = network;
  return (
    deviceAlive[interfaces.device[virtuals[v].interface]] === 1 &&
    virtuals[v].together.every((mate) => carrierUp[virtuals[mate].interface] === 1)
  );
}

/** Virtual routers that hear each other. */
interface Part {
  readonly members: readonly number[];
  /** Those that are heard by all of them, and hear none (rule 2.6). */
  readonly heard: readonly number[];
}

/** The parts of a group at this moment: all members together, or each alone if the link is silently partitioned (rule
 * 14.5). */
export function partsOf(state: State, { link, members }: Network["virtualGroups"][number]): Part[] {
  const { network, linkAlive, cut, deaf } = state;
  const alone = (list: readonly number[]) => list.map((v): Part => ({ members: [v], heard: [] }));
  if (link < 0 || !linkAlive[link]) return alone(members);
  const apart = (v: number) => cut[network.virtuals[v].interface] === 1;
  const hearsNone = (v: number) => !apart(v) && deaf?.[network.virtuals[v].interface] === 1;
  const heard = members.filter(hearsNone);
  const joined = members.filter((v) => !apart(v) && !hearsNone(v));
  return [
    ...(joined.length ? [{ members: joined, heard }] : []),
    ...alone([...heard, ...members.filter(apart)]),
  ];
}

/** Who comes first: by priority, then by the greater primary address. */
function compareRank(state: State, a: number, b: number): number {
  const { virtuals } = state.network;
  return (
    priorityOf(state, a) - priorityOf(state, b) || comparePrimary(virtuals[a].primary, virtuals[b].primary)
  );
}

function strongest(state: State, list: readonly number[]): number {
  return list.reduce((best, v) => (best < 0 || compareRank(state, v, best) > 0 ? v : best), -1);
}

/** Whether one that is heard less strong than itself is let go on (rule 14.1): only a strictly higher priority takes over. */
function takesOver(state: State, v: number, active: number): boolean {
  const { virtuals } = state.network;
  const { preempt, owner } = virtuals[v];
  return (preempt || owner) && priorityOf(state, v) > priorityOf(state, active);
}

/** Which virtual routers become Active (rules 14.1 to 14.5): an Active one remains until it hears a higher priority or
 * steps back; if none is heard, the highest priority starts. `anew` elects as if all had just started. */
export function electedIn(state: State, anew: boolean): Uint8Array {
  const { virtuals } = state.network;
  const held = new Set<number>();
  for (;;) {
    const next = electedWithout(state, anew, held);
    // Where one of those that are Active together cannot be, none is (rule 14.7).
    const alone = virtuals.find(({ index, together }) => next[index] && !together.every((v) => next[v]));
    if (!alone) return next;
    for (const v of alone.together) held.add(v);
  }
}

function electedWithout(state: State, anew: boolean, held: ReadonlySet<number>): Uint8Array {
  const { network, roles } = state;
  const next = new Uint8Array(network.virtuals.length);
  for (const group of network.virtualGroups) {
    for (const part of partsOf(state, group)) {
      const able = part.members.filter((v) => takesPart(state, v) && !held.has(v));
      const isActive = (v: number) => roles.virtualActive[v] === 1;
      // A router that hears no other becomes Active eventually.
      const heard = part.heard.filter((v) => takesPart(state, v) && (anew || isActive(v)));
      const active = strongest(state, [...heard, ...(anew ? [] : able.filter(isActive))]);
      if (active < 0 || (anew && !able.some((v) => compareRank(state, v, active) < 0))) {
        const best = strongest(state, able);
        if (best >= 0) next[best] = 1;
        continue;
      }
      if (able.includes(active)) next[active] = 1;
      const challenger = strongest(
        state,
        able.filter((v) => v !== active && takesOver(state, v, active)),
      );
      if (challenger >= 0) next[challenger] = 1;
    }
  }
  return next;
}

/** RFC 9568, section 6.1: how much longer a Backup of a priority waits than three intervals of the Active; milliseconds. */
export function skewMs(priority: number, advertMs: number): number {
  return ((256 - priority) * advertMs) / 256;
}

/** RFC 9568, section 6.1: how long after the last advertisement a Backup takes the Active for gone; milliseconds. */
export function activeDownMs(priority: number, advertMs: number): number {
  return 3 * advertMs + skewMs(priority, advertMs);
}

/** The other Active virtual router that this one can hear; null if there is none. */
export function heardActive(state: State, v: number): VirtualRecord | null {
  const { network, roles } = state;
  const group = network.virtualGroups[network.virtuals[v].group];
  const part = partsOf(state, group).find(({ members }) => members.includes(v));
  const others = [...(part?.members ?? []), ...(part?.heard ?? [])].filter(
    (one) => one !== v && roles.virtualActive[one] && takesPart(state, one),
  );
  const best = strongest(state, others);
  return best < 0 ? null : network.virtuals[best];
}
