import {
  activeDownMs,
  electedIn,
  heardActive,
  hearsOther,
  partsOf,
  priorityOf,
  skewMs,
  takesPart,
} from "../convergence/index.ts";
import {
  deviceElement,
  type ElementNumber,
  interfaceElement,
  type Network,
  type State,
} from "../network/index.ts";
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
  private readonly activeSinceMs = new Map<number, number>();
  private active: Uint8Array;
  /** How the last Active of those that a virtual router hears went, by virtual router. */
  private readonly lost = new Map<number, Lost>();

  constructor(
    state: State,
    private readonly shut: ReadonlySet<ElementNumber>,
  ) {
    this.network = state.network;
    this.tookPart = this.network.virtuals.map(({ index }) => takesPart(state, index));
    this.active = state.roles.virtualActive;
  }

  /** Takes in what has changed since the last look. */
  look(state: State, nowMs: number) {
    const { virtualActive } = state.roles;
    for (const { index: v, group } of this.network.virtuals) {
      const now = takesPart(state, v);
      if (now && !this.tookPart[v]) this.started.set(v, nowMs);
      if (!now && this.tookPart[v] && virtualActive[v]) this.lose(state, v, group);
      this.tookPart[v] = now;
      if (virtualActive[v] && !this.active[v]) {
        this.activeSinceMs.set(v, nowMs);
        this.started.delete(v);
      }
    }
    this.active = virtualActive;
  }

  private lose(state: State, v: number, group: number) {
    const { advertMs } = this.network.virtuals[v];
    const lost = { announced: this.announces(state, v), advertMs };
    for (const mate of this.network.virtualGroups[group].members) if (mate !== v) this.lost.set(mate, lost);
  }

  /** Whether one that steps back can say so: it is shut, or it steps back with a mate while its own interface is up. */
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

  /** As `electedIn`, but where none is heard all that take part wait for their own time: the first to end begins. */
  virtualsWanted(state: State): Uint8Array {
    const wanted = electedIn(state, false);
    for (const group of this.network.virtualGroups) {
      for (const part of partsOf(state, group)) {
        const able = part.members.filter((v) => takesPart(state, v));
        const heard = [...able, ...part.heard.filter((v) => takesPart(state, v))];
        if (!heard.some((v) => state.roles.virtualActive[v])) for (const v of able) wanted[v] = 1;
      }
    }
    return wanted;
  }

  /** From the moment that a virtual router would be Active, or Backup, to the moment that it is. */
  virtualDelay(state: State, v: number, active: boolean, nowMs: number): Delay {
    if (!active) return this.yieldDelay(state, v, nowMs);
    const record = this.network.virtuals[v];
    const { owner, advertMs, preemptDelayMs } = record;
    const priority = priorityOf(state, v);
    const heard = heardActive(state, v);
    if (this.started.has(v)) {
      if (owner) return exactly(0);
      const whole = activeDownMs(priority, advertMs);
      return heard ? { min: Math.max(whole, preemptDelayMs), max: whole + preemptDelayMs } : exactly(whole);
    }
    if (heard) return takeover(priority, heard.advertMs);
    const lost = this.lost.get(v);
    // Priority 0 leaves the skew alone (RFC 9568, section 6.4.2).
    if (lost?.announced) return exactly(skewMs(priority, lost.advertMs));
    return takeover(priority, lost?.advertMs ?? advertMs);
  }

  private yieldDelay(state: State, v: number, nowMs: number): Delay {
    if (!takesPart(state, v)) return exactly(0);
    const stronger = heardActive(state, v);
    // Who takes over says so at once; who was Active apart is heard at its next advertisement (rule 14.5).
    if (!stronger || this.activeSinceMs.get(stronger.index) === nowMs) return exactly(0);
    return { min: 0, max: stronger.advertMs };
  }

  /** From the moment that a member of a pair would be active, or stand by, to the moment that it is (rule 17.2). */
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

/** After the last advertisement that counted, which lies up to one interval back (rules 14.2 and 14.3). */
function takeover(priority: number, advertMs: number): Delay {
  const max = activeDownMs(priority, advertMs);
  return { min: max - advertMs, max };
}
