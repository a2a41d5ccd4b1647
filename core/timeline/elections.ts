import {
  deviceElement,
  type ElementNumber,
  interfaceElement,
  type Network,
  type State,
  type VirtualRecord,
} from "../network/index.ts";
import {
  activeDownMs,
  electedIn,
  heardActive,
  hearsOther,
  partsOf,
  priorityOf,
  skewMs,
  takesPart,
} from "../settle/index.ts";
import type { Delay } from "./delays.ts";

/** How a group was left without an Active: it said so (priority 0), or it was heard no more. */
interface Lost {
  readonly announced: boolean;
  /** The interval at which it was heard. */
  readonly advertMs: number;
}

const exactly = (ms: number): Delay => ({ min: ms, max: ms });

/**
 * When virtual routers and members of pairs take over and step back in the middle of an outage (rules 14.2 to 14.5 and
 * 17.2): it remembers who was heard, who has just started, and how the last Active went.
 */
export class Elections {
  private readonly network: Network;
  private readonly tookPart: boolean[];
  /** Virtual routers that started at a moment and were not Active since. */
  private readonly started = new Map<number, number>();
  /** Those that waited as Backup for another one of their sync group, which takes part again. */
  private readonly waited = new Set<number>();
  private readonly ownUp: boolean[];
  private readonly activeSinceMs = new Map<number, number>();
  private active: Uint8Array;
  /** How the last Active of those that a virtual router hears went, by virtual router. */
  private readonly lost = new Map<number, Lost>();
  /** The Active that a virtual router heard when its takeover was timed, or -1. */
  private readonly timedBy = new Map<number, number>();

  constructor(
    state: State,
    private readonly shut: ReadonlySet<ElementNumber>,
  ) {
    this.network = state.network;
    this.tookPart = this.network.virtuals.map(({ index }) => takesPart(state, index));
    this.ownUp = this.network.virtuals.map(({ index }) => isUp(state, index));
    this.active = state.roles.virtualActive;
  }

  /** Records the changes since the last call. */
  look(state: State, nowMs: number) {
    const { virtualActive } = state.roles;
    for (const { index: v, group } of this.network.virtuals) {
      const now = takesPart(state, v);
      const up = isUp(state, v);
      if (up && !this.ownUp[v]) this.started.set(v, nowMs);
      else if (now && !this.tookPart[v]) this.waited.add(v);
      this.ownUp[v] = up;
      if (!now && this.tookPart[v] && virtualActive[v]) this.lose(state, v, group);
      // A router that steps back for its sync group announces it, and leaves the address without an owner.
      if (now && this.active[v] && !virtualActive[v] && !heardActive(state, v)) this.lose(state, v, group);
      this.tookPart[v] = now;
      if (virtualActive[v] && !this.active[v]) {
        this.activeSinceMs.set(v, nowMs);
        this.started.delete(v);
        this.waited.delete(v);
      }
    }
    this.active = virtualActive;
  }

  private lose(state: State, v: number, group: number) {
    const { advertMs } = this.network.virtuals[v];
    const lost = { announced: this.announces(state, v), advertMs };
    for (const mate of this.network.virtualGroups[group].members) if (mate !== v) this.lost.set(mate, lost);
  }

  /** Whether a router that steps back can announce it: it is shut down, or steps back with its group while its own
   * interface is up. */
  private announces(state: State, v: number): boolean {
    const { interface: i, together } = this.network.virtuals[v];
    const device = this.network.interfaces.device[i];
    if (
      this.shut.has(deviceElement(this.network, device)) ||
      this.shut.has(interfaceElement(this.network, i))
    )
      return true;
    return together.length > 1 && state.deviceAlive[device] === 1 && state.carrierUp[i] === 1;
  }

  /** Like `electedIn`, but if no router is heard, all candidates wait for their own timers: the first to expire starts.
   * */
  virtualsWanted(state: State): Uint8Array {
    const wanted = electedIn(state, false);
    for (const group of this.network.virtualGroups) {
      for (const part of partsOf(state, group)) {
        const able = part.members.filter((v) => takesPart(state, v));
        const heard = [...able, ...part.heard.filter((v) => takesPart(state, v))];
        if (!heard.some((v) => state.roles.virtualActive[v])) for (const v of able) wanted[v] = 1;
      }
    }
    // Rule 14.7: together or not at all.
    for (const { index, together } of this.network.virtuals)
      if (!together.every((v) => wanted[v])) wanted[index] = 0;
    return wanted;
  }

  /** Whether a takeover that is timed has to be timed anew: another Active is heard now, or none any more. */
  isStale(state: State, v: number): boolean {
    return (heardActive(state, v)?.index ?? -1) !== this.timedBy.get(v);
  }

  /** From the moment that a virtual router would be Active, or Backup, to the moment that it is. */
  virtualDelay(state: State, v: number, active: boolean, nowMs: number, dueMs: number | null): Delay {
    if (!active) return this.yieldDelay(state, v, nowMs);
    const heard = heardActive(state, v);
    const isTimedAnew = dueMs !== null;
    this.timedBy.set(v, heard?.index ?? -1);
    if (this.network.virtuals[v].owner) return this.takeoverDelay(state, v, heard);
    if (!isTimedAnew) return delayedBy(this.takeoverDelay(state, v, heard), this.preemptDelay(v, heard));
    const left = Math.max(0, dueMs - nowMs);
    // The timer for the last Active continues; the new, lower-priority one adds the delay (rule 14.4).
    if (heard) {
      const delay = this.preemptDelay(v, heard);
      const ago = nowMs - (this.started.get(v) ?? nowMs);
      return { min: Math.max(left, delay - ago), max: left + delay };
    }
    const { min, max } = this.takeoverDelay(state, v, null);
    return { min: Math.min(min, left), max: Math.min(max, left) };
  }

  private preemptDelay(v: number, heard: VirtualRecord | null): number {
    return heard ? this.network.virtuals[v].preemptDelayMs : 0;
  }

  /** How long one that takes over waits for the Active to be gone, or weaker. */
  private takeoverDelay(state: State, v: number, heard: VirtualRecord | null): Delay {
    const { owner, advertMs } = this.network.virtuals[v];
    const priority = priorityOf(state, v);
    if (this.started.has(v)) return exactly(owner ? 0 : activeDownMs(priority, advertMs));
    // How much of its time is over already is not known.
    if (this.waited.has(v)) return { min: 0, max: activeDownMs(priority, heard?.advertMs ?? advertMs) };
    if (heard) return takeover(priority, heard.advertMs);
    const lost = this.lost.get(v);
    // Priority 0 leaves the skew alone (RFC 9568, section 6.4.2).
    if (lost?.announced) return exactly(skewMs(priority, lost.advertMs));
    return takeover(priority, lost?.advertMs ?? advertMs);
  }

  private yieldDelay(state: State, v: number, nowMs: number): Delay {
    if (!takesPart(state, v)) return exactly(0);
    const stronger = heardActive(state, v);
    // It steps back with a mate, whenever that does (rule 14.7).
    if (!stronger && this.network.virtuals[v].together.length > 1) return exactly(Number.POSITIVE_INFINITY);
    // A new Active announces itself at once; one that was Active in a separate part is heard at its next advertisement
    // (rule 14.5).
    if (!stronger || this.activeSinceMs.get(stronger.index) === nowMs) return exactly(0);
    return { min: 0, max: stronger.advertMs };
  }

  /** The delay between the decision that a pair member becomes active or standby and the change (rule 17.2). */
  memberDelay(state: State, place: number, active: boolean): Delay {
    const pair = this.network.pairs[place >> 1];
    const { helloMs, missed, members } = pair;
    const own = members[place & 1];
    const other = members[1 - (place & 1)];
    const now = state.roles.pairActive[place];
    if (!state.deviceAlive[own] || (active && now > 0)) return exactly(0);
    if (active && !state.deviceAlive[other]) {
      if (this.shut.has(deviceElement(this.network, other))) return exactly(0);
      return { min: (missed - 1) * helloMs, max: missed * helloMs };
    }
    if (active && !hearsOther(state, pair, (place & 1) as 0 | 1))
      return { min: (missed - 1) * helloMs, max: missed * helloMs };
    return { min: 0, max: helloMs };
  }
}

/** Whether the interface of a virtual router is up, whatever its mates do. */
function isUp({ network, deviceAlive, carrierUp }: State, v: number): boolean {
  const { interface: i } = network.virtuals[v];
  return deviceAlive[network.interfaces.device[i]] === 1 && carrierUp[i] === 1;
}

/** A takeover with a delay for preemption: at least the greater of both, at most their sum (rule 14.4). */
function delayedBy({ min, max }: Delay, delayMs: number): Delay {
  return { min: Math.max(min, delayMs), max: max + delayMs };
}

/** After the last advertisement that counted, which lies up to one interval back (rules 14.2 and 14.3). */
function takeover(priority: number, advertMs: number): Delay {
  const max = activeDownMs(priority, advertMs);
  return { min: max - advertMs, max };
}
