import { differing } from "../collections/index.ts";
import {
  type ElementNumber,
  elementParts,
  expandElements,
  forgettingOf,
  type Network,
  physicalState,
  restsOnOwnRole,
  type State,
  sourceCodes,
  stateOf,
} from "../network/index.ts";
import {
  activeMembersIn,
  type Engine,
  groupUp,
  judgedAnew,
  readAnswers,
  sameBytes,
  tunnelsNear,
  watchesNear,
} from "../settle/index.ts";
import { type Arrival, type Verdict, World } from "../walk/index.ts";
import {
  answerDelay,
  type Delay,
  interfaceDelay,
  isTimeless,
  neighbourAge,
  watchDelay,
  witnessesOf,
} from "./delays.ts";
import { Elections } from "./elections.ts";
import { type Outcomes, sameOutcome } from "./outcomes.ts";
import { ProbeClocks, type ProbeMoment, type ProbePhase, type ProbePhases } from "./probes.ts";

/** What fails and what heals, and when, in milliseconds from the start. Ascending. */
export interface Step {
  readonly atMs: number;
  readonly fail: readonly ElementNumber[];
  /** The same, announced to whoever takes over. */
  readonly shut?: readonly ElementNumber[];
  readonly restore: readonly ElementNumber[];
}

/** The start of an outage: its first failure, from which times count. Steps are ordered by time. */
export function firstFailure(steps: readonly Step[]): number {
  return steps.find(({ fail, shut }) => fail.length + (shut?.length ?? 0) > 0)?.atMs ?? 0;
}

export interface Span {
  readonly fromMs: number;
  /** null: without end. */
  readonly toMs: number | null;
  readonly verdict: Verdict;
  /** Positions of the gateways that carry. */
  readonly carriers: readonly number[];
  readonly partly: boolean;
  readonly uncertain: boolean;
  /** Of a flow that must be denied: how far its packets get. */
  readonly arrival?: Arrival;
}

export type SimulationEvent =
  | { kind: "fail" | "shut" | "restore"; element: ElementNumber }
  | { kind: "interface"; interface: number; up: boolean }
  | { kind: "watch"; watch: number; up: boolean }
  | { kind: "virtual"; virtual: number; active: boolean }
  | { kind: "member"; pair: number; member: 0 | 1; active: boolean }
  | { kind: "neighbour"; candidate: number; up: boolean }
  /** A device has forgotten its neighbors on an interface that nothing reaches, or resolves them again (rule 2.6). */
  | { kind: "forgotten"; interface: number; forgotten: boolean }
  | { kind: "flow"; flow: number; verdict: Verdict; carriers: readonly number[] }
  | { kind: "flapping"; periodMs: number | null };

export interface Simulation {
  readonly events: readonly { readonly atMs: number; readonly what: SimulationEvent }[];
  /** One list of spans a question, in their order. */
  readonly spans: readonly (readonly Span[])[];
  readonly end: World;
  /** The world after each moment at which something happened, ascending; the settled one before all comes first. */
  readonly moments: readonly { readonly atMs: number; readonly world: World }[];
  readonly flapping: boolean;
  /** What on the way could have taken longer or less, by name, as it came first; nothing where all is known. */
  readonly unknown: ReadonlyMap<string, Interval>;
  /** Whether it ends before something has come that takes an unknown time (rule 3.3). */
  readonly waitsForEver: boolean;
}

/** Changes of belief after which a simulation is given up as flapping. */
const MAX_CHANGES = 400;
/** How often beliefs may change within one instant before it counts as unrest. */
const MAX_AT_ONCE = 64;

/** The beliefs of devices, each changed by its own timers. */
const beliefs = ["carrierUp", "watchUp", "answers", "forgotten", "virtualActive", "pairActive"] as const;
type Belief = (typeof beliefs)[number];

/** A pending change of a belief: the new value and its time. */
interface Timer {
  dueMs: number;
  value: number;
}

/** When something that takes an unknown time may be over, in milliseconds from the start. */
export interface Interval {
  readonly fromMs: number;
  readonly toMs: number;
}

/** Chooses a moment within an unknown interval; each change of each belief has its own name. */
export type Phase = (name: string, interval: Interval) => number;

const ends: Record<keyof Delay, Phase> = {
  min: (_, { fromMs }) => fromMs,
  max: (_, { toMs }) => toMs,
};

/** Prefix of a probe's phase in `unknown`; the number of its watch follows. */
export const PROBE_PHASE = "probe ";

/**
 * Simulates an outage over the beliefs of every device (rule 10.2). `phase` chooses the moment of every
 * unknown interval: "min" the least that each can take, "max" the most. Starts settled, the engine's base down.
 * `probePhases` says when probes send; the others send just after they are needed first, or just before it, as `phase` chooses.
 */
export function simulate(
  engine: Engine,
  flows: Outcomes,
  steps: readonly Step[],
  phase: keyof Delay | Phase,
  probePhases: ProbePhases = new Map(),
): Simulation {
  return new Simulator(engine, flows, typeof phase === "string" ? ends[phase] : phase, probePhases).run(
    steps,
  );
}

class Simulator {
  private readonly network: Network;
  private nowMs = 0;
  private readonly failed: Set<ElementNumber>;
  private tunnelPasses: Uint8Array;
  private readonly selfTunnels: Set<number>;
  /** Devices that announce their shutdown. */
  private readonly shut = new Set<ElementNumber>();
  /** Devices that were restored and boot, by their element: when their interfaces rise (rule 10.5). */
  private readonly booting = new Map<ElementNumber, number>();
  private readonly believed: Record<Belief, Uint8Array>;
  private readonly timers: Record<Belief, Map<number, Timer>> = {
    carrierUp: new Map(),
    watchUp: new Map(),
    answers: new Map(),
    forgotten: new Map(),
    virtualActive: new Map(),
    pairActive: new Map(),
  };
  private readonly elections: Elections;
  private readonly probes: ProbeClocks;
  /** Takeover times of virtual routers that act on their own timers, by number. */
  private readonly ownTakeovers = new Map<number, number>();
  private readonly events: { atMs: number; what: SimulationEvent }[] = [];
  private readonly spans: (Omit<Span, "toMs"> & { toMs: number | null })[][];
  private changes = 0;
  private flapping: boolean;
  private readonly unknown = new Map<string, Interval>();

  constructor(
    private readonly engine: Engine,
    private readonly flows: Outcomes,
    private readonly phase: Phase,
    private readonly probePhases: ProbePhases,
  ) {
    this.network = engine.network;
    this.failed = new Set(engine.base);
    const { state } = engine.healthy.world;
    this.tunnelPasses = state.tunnelPasses;
    this.selfTunnels = new Set(engine.healthy.selfTunnels);
    this.believed = {
      carrierUp: state.carrierUp.slice(),
      watchUp: state.watchUp.slice(),
      answers: state.answers.slice(),
      forgotten: state.forgotten?.slice() ?? new Uint8Array(state.network.interfaces.count),
      virtualActive: state.roles.virtualActive.slice(),
      pairActive: state.roles.pairActive.slice(),
    };
    this.elections = new Elections(state, this.shut);
    this.probes = new ProbeClocks(state, this.believed.watchUp, (w, { intervalMs }) =>
      this.probePhase(w, intervalMs),
    );
    this.spans = flows.questions.map(() => []);
    this.flapping = engine.healthy.flapping.length > 0;
  }

  run(steps: readonly Step[]): Simulation {
    const open = [...steps];
    this.watchFlows(this.engine.healthy.world);
    const moments = [{ atMs: Number.NEGATIVE_INFINITY, world: this.engine.healthy.world }];
    let world = this.instant(open);
    moments.push({ atMs: 0, world });
    while (!this.flapping) {
      const next = Math.min(open[0]?.atMs ?? Number.POSITIVE_INFINITY, this.nextTimer());
      const probe = this.probes.next(this.nowMs);
      const probeFirst =
        probe && (probe.atMs < next || (probe.atMs === next && probe.isJustBefore)) ? probe : null;
      if (!probeFirst && next === Number.POSITIVE_INFINITY) break;
      if (probeFirst && !this.takeProbes(probeFirst)) continue;
      if (!probeFirst) this.nowMs = next;
      world = this.instant(probeFirst ? [] : open);
      moments.push({ atMs: this.nowMs, world });
    }
    if (this.flapping) this.note({ kind: "flapping", periodMs: this.period() });
    const { events, spans, flapping, unknown } = this;
    const waitsForEver = this.timers.answers.size > 0;
    return { events, spans, end: world, moments, flapping, unknown, waitsForEver };
  }

  /** Processes the next events of probes. Returns whether a watch changes. */
  private takeProbes(moment: ProbeMoment): boolean {
    const turned = this.probes.take(moment, this.nowMs);
    this.nowMs = moment.atMs;
    for (const w of turned) this.believe("watchUp", w, 1 - this.believed.watchUp[w]);
    return turned.length > 0;
  }

  private probePhase(w: number, intervalMs: number): ProbePhase {
    const chosen = this.probePhases.get(w);
    const interval = { fromMs: this.nowMs, toMs: this.nowMs + intervalMs };
    const name = `${PROBE_PHASE}${w}`;
    if (!this.unknown.has(name)) this.unknown.set(name, interval);
    if (chosen) return chosen;
    const sentMs = this.phase(name, interval);
    return { sentMs, isJustBefore: sentMs === interval.toMs };
  }

  /** The time until the same watch makes the same change again (rule 9.5); null if none does. */
  private period(): number | null {
    const last = this.events.findLast(({ what }) => what.kind === "watch");
    if (last?.what.kind !== "watch") return null;
    const { watch, up } = last.what;
    const before = this.events.findLast(
      (e) => e !== last && e.what.kind === "watch" && e.what.watch === watch && e.what.up === up,
    );
    return before ? last.atMs - before.atMs : null;
  }

  private nextTimer(): number {
    let next = Number.POSITIVE_INFINITY;
    for (const map of Object.values(this.timers))
      for (const timer of map.values()) next = Math.min(next, timer.dueMs);
    for (const dueMs of this.booting.values()) next = Math.min(next, dueMs);
    return next;
  }

  /** Everything that happens at the present moment; the world at its end. */
  private instant(open: Step[]): World {
    for (let step = open[0]; step && step.atMs <= this.nowMs; step = open[0]) {
      open.shift();
      for (const element of step.fail) this.strike(element, "fail");
      for (const element of step.shut ?? []) this.strike(element, "shut");
      for (const element of step.restore) this.strike(element, "restore");
    }
    for (const [element, dueMs] of this.booting) if (dueMs <= this.nowMs) this.booting.delete(element);
    let world = this.look();
    for (let round = 0; ; round++) {
      this.schedule(world);
      if (!this.takeDue()) break;
      world = this.look();
      if (round >= MAX_AT_ONCE) this.flapping = true;
      if (this.flapping) break;
    }
    this.watchFlows(world);
    return world;
  }

  private strike(element: ElementNumber, how: "fail" | "shut" | "restore") {
    const down = how !== "restore";
    if (this.failed.has(element) === down) return;
    // What led a tunnel into itself may be over: it is judged anew.
    this.selfTunnels.clear();
    this.tunnelPasses = judgedAnew(this.tunnelPasses);
    const before = down ? [] : expandElements(this.network, this.failing());
    if (down) this.failed.add(element);
    else this.failed.delete(element);
    for (const one of expandElements(this.network, [element])) {
      if (how === "shut") this.shut.add(one);
      else this.shut.delete(one);
    }
    const still = new Set(down ? [] : expandElements(this.network, this.failing()));
    for (const one of before) if (!still.has(one)) this.boot(one);
    this.note({ kind: how, element });
  }

  /** A device that comes back takes its time before its interfaces rise (rule 10.5). */
  private boot(element: ElementNumber) {
    const { kind, index } = elementParts(this.network, element);
    const bootMs = kind === "device" ? (this.network.plan.devices[index].bootMs ?? 0) : 0;
    if (bootMs > 0) this.booting.set(element, this.nowMs + bootMs);
  }

  /** Elements that are down: failed, or rebooting devices. Ascending. */
  private failing(): ElementNumber[] {
    return [...new Set([...this.failed, ...this.booting.keys()])].sort((a, b) => a - b);
  }

  private note(what: SimulationEvent) {
    this.events.push({ atMs: this.nowMs, what });
  }

  /** The current world: the actual condition and the beliefs. */
  private look(): World {
    const failed = this.failing();
    for (let round = 0; ; round++) {
      const { carrierUp, watchUp, answers, forgotten, virtualActive, pairActive } = this.believed;
      const roles = { virtualActive: virtualActive.slice(), pairActive: pairActive.slice() };
      const physical = physicalState(this.network, failed, this.tunnelPasses, roles);
      const state = stateOf(physical, {
        carrierUp: carrierUp.slice(),
        watchUp: watchUp.slice(),
        answers: answers.slice(),
        forgotten: forgotten.includes(1) ? forgotten.slice() : null,
      });
      const world = new World(state, this.engine.store);
      const passes = tunnelsNear(this.engine.healthy.world, world, this.selfTunnels);
      if (round > 8 || sameBytes(passes, this.tunnelPasses)) return world;
      this.tunnelPasses = passes;
    }
  }

  /** Starts a timer for each belief that no longer fits, and drops those that fit again. */
  private schedule(world: World) {
    const { state } = world;
    const failedInterfaces = new Set<number>();
    const failedWatches = new Set<number>();
    for (const element of state.struck) {
      const { kind, index } = elementParts(this.network, element);
      if (kind === "interface") failedInterfaces.add(index);
      else if (kind === "watch") failedWatches.add(index);
      else if (kind === "device") {
        const { firstInterface, endInterface } = this.network.devices[index];
        for (let i = firstInterface; i < endInterface; i++) failedInterfaces.add(i);
      }
    }
    this.aim("carrierUp", this.withBuiltOnBeliefs(state), (i, up) =>
      interfaceDelay(state, i, up, failedInterfaces.has(i)),
    );
    const read = watchesNear(this.engine.healthy.world, world).slice();
    const told = this.sessionsTold(world, failedWatches);
    for (const w of told) read[w] = this.believed.watchUp[this.network.watches[w].partner];
    this.probes.look(state, read, failedWatches, this.nowMs);
    this.aim("watchUp", this.withGroupsOfBeliefs(read, failedWatches), (w, up) =>
      failedWatches.has(w) || told.has(w)
        ? { min: 0, max: 0 }
        : watchDelay(this.network, this.network.watches[w], up),
    );
    this.aim("forgotten", forgettingOf(state) ?? new Uint8Array(this.network.interfaces.count), (i, gone) =>
      neighbourAge(this.network, i, gone),
    );
    const answering = readAnswers(state, undefined, differing(state.carrierUp, state.carrier));
    this.aim("answers", this.untilSeen(state, this.withLoyalty(answering)), (slot, up) =>
      answerDelay(state, this.network.candidates.answering[slot], up, this.believed.watchUp),
    );
    if (this.network.virtuals.length === 0 && this.network.pairs.length === 0) return;
    this.elections.look(state, this.nowMs);
    this.aimVirtuals(state);
    this.aim("pairActive", activeMembersIn(world), (place, active) =>
      this.elections.memberDelay(state, place, active),
    );
  }

  /** A bundle follows what its device takes its members for, a tagged interface the one that it passes (rule 15). */
  private withBuiltOnBeliefs({ carrier, admitted }: State): Uint8Array {
    const { bundles, interfaces } = this.network;
    if (bundles.length === 0 && interfaces.tagged.size === 0) return carrier;
    const wanted = carrier.slice();
    const { carrierUp } = this.believed;
    for (const { interface: i, members, minUp } of bundles)
      wanted[i] = Number(admitted[i] === 1 && members.filter((m) => carrierUp[m]).length >= minUp);
    for (const [parent, children] of interfaces.tagged)
      for (const i of children) wanted[i] = Number(admitted[i] === 1 && carrierUp[parent] === 1);
    return wanted;
  }

  /** BFD sessions that hear their far end but are not heard by it: they go down once the far end reports it (RFC 5880,
   * sections 6.8.6 and 6.8.7; rule 2.6). */
  private sessionsTold({ state }: World, failed: ReadonlySet<number>): ReadonlySet<number> {
    const told = new Set<number>();
    const { deaf, carrier, interfaceAlive, linkAlive } = state;
    if (!deaf) return told;
    const { watches, interfaces } = this.network;
    for (const { index, port, partner } of watches) {
      if (partner < 0 || failed.has(index) || failed.has(partner)) continue;
      const far = watches[partner].port;
      const heard = interfaceAlive[port] && linkAlive[interfaces.link[port]] && carrier[far];
      if (heard && deaf[far] && !state.forgotten?.[far] && this.believed.watchUp[index]) told.add(index);
    }
    return told;
  }

  /** A group follows its members' current beliefs, not their pending ones. */
  private withGroupsOfBeliefs(read: Uint8Array, failed: ReadonlySet<number>): Uint8Array {
    const { watchUp } = this.believed;
    for (const { watch, index, members } of this.network.watches) {
      if (watch.kind !== "group" || failed.has(index)) continue;
      read[index] = Number(groupUp(watch.need, members.filter((m) => watchUp[m]).length, members.length));
    }
    return read;
  }

  /**
   * Rule 3.3: learned routes that do not say when they are lost stay until their device sees that the neighbor is gone, by
   * carrier or by a BFD session with it.
   */
  private untilSeen(state: State, read: Uint8Array): Uint8Array {
    const { candidates } = this.network;
    for (const [slot, c] of candidates.answering.entries()) {
      if (read[slot] || !this.believed.answers[slot] || !isTimeless(this.network, c)) continue;
      const { out, sessions } = witnessesOf(this.network, c);
      const carrierToGo = out >= 0 && !state.carrier[out] && this.believed.carrierUp[out];
      if (carrierToGo || sessions.some((w) => this.believed.watchUp[w])) read[slot] = 1;
    }
    return read;
  }

  /** Rule 7.1: a host that does not fail back at once stays with the gateway that it moved to until it takes that one for dead. */
  private withLoyalty(read: Uint8Array): Uint8Array {
    const { candidates } = this.network;
    for (const [slot, c] of candidates.answering.entries()) {
      if (!read[slot] || this.believed.answers[slot]) continue;
      if (restsOnOwnRole(this.network, c)) continue;
      const { profile } = this.network.devices[candidates.device[c]];
      const written =
        candidates.source[c] === sourceCodes.static || candidates.source[c] === sourceCodes.handedOut;
      if (!written || profile.failback === "at-once") continue;
      // One that has died is kept until the time for that has passed; own carrier lost ends it at once.
      const keepsTo = this.rivals(c).some((rival) => {
        const out = candidates.out[rival];
        return this.believed.answers[candidates.answer[rival]] && (out < 0 || this.believed.carrierUp[out]);
      });
      if (keepsTo) read[slot] = 0;
    }
    return read;
  }

  private rivals(c: number): number[] {
    const { groups, candidates } = this.network;
    const g = candidates.group[c];
    const list: number[] = [];
    for (let k = groups.start[g]; k < groups.start[g + 1]; k++)
      if (k !== c && candidates.answer[k] >= 0) list.push(k);
    return list;
  }

  private aim(key: Belief, wanted: Uint8Array, delay: (i: number, up: boolean) => Delay) {
    const now = this.believed[key];
    const timers = this.timers[key];
    for (const i of timers.keys()) if (wanted[i] === now[i]) timers.delete(i);
    for (const i of differing(wanted, now)) {
      if (timers.get(i)?.value === wanted[i]) continue;
      const takes = delay(i, wanted[i] > 0);
      timers.set(i, { dueMs: this.dueMs(`${key} ${i} ${wanted[i]}`, takes), value: wanted[i] });
    }
  }

  /** Virtual routers take over and step back, those of one sync group together (rules 14.4 and 14.7). */
  private aimVirtuals(state: State) {
    const timers = this.timers.virtualActive;
    const { elections, network } = this;
    /** Takeover times by own timer. */
    const own = this.ownTakeovers;
    const before = new Map([...timers.keys()].map((v) => [v, own.get(v) ?? null] as const));
    for (const [v, { value }] of timers) if (value === 1 && elections.isStale(state, v)) timers.delete(v);
    const retimed = new Set([...before.keys()].filter((v) => !timers.has(v)));
    for (const [v, timer] of timers) timer.dueMs = own.get(v) ?? timer.dueMs;
    this.aim("virtualActive", elections.virtualsWanted(state), (v, active) =>
      elections.virtualDelay(state, v, active, this.nowMs, retimed.has(v) ? (before.get(v) ?? null) : null),
    );
    own.clear();
    for (const [v, { dueMs }] of timers) own.set(v, dueMs);
    for (const { index, together } of network.virtuals) {
      const timer = timers.get(index);
      if (!timer || together.length === 1) continue;
      const mates = together.flatMap((v) =>
        timers.get(v)?.value === timer.value ? [own.get(v) as number] : [],
      );
      timer.dueMs = timer.value ? Math.max(...mates) : Math.min(...mates);
    }
  }

  private dueMs(name: string, { min, max }: Delay): number {
    if (min === max) return this.nowMs + min;
    const interval = { fromMs: this.nowMs + min, toMs: this.nowMs + max };
    if (!this.unknown.has(name)) this.unknown.set(name, interval);
    return this.phase(name, interval);
  }

  /** Takes over the beliefs whose time has come; whether any did. */
  private takeDue(): boolean {
    let any = false;
    for (const key of beliefs) {
      for (const [i, timer] of this.timers[key]) {
        if (timer.dueMs > this.nowMs) continue;
        this.timers[key].delete(i);
        this.believe(key, i, timer.value);
        any = true;
      }
    }
    return any;
  }

  private believe(key: Belief, i: number, value: number) {
    this.believed[key][i] = value;
    if (++this.changes > MAX_CHANGES) this.flapping = true;
    this.tell(key, i, value > 0);
  }

  private tell(key: Belief, i: number, up: boolean) {
    if (key === "carrierUp") this.note({ kind: "interface", interface: i, up });
    else if (key === "watchUp") this.note({ kind: "watch", watch: i, up });
    else if (key === "answers") {
      // A role change of a virtual router is announced separately.
      const candidate = this.network.candidates.answering[i];
      if (!restsOnOwnRole(this.network, candidate)) this.note({ kind: "neighbour", candidate, up });
    } else if (key === "forgotten") this.note({ kind: "forgotten", interface: i, forgotten: up });
    else if (key === "virtualActive") this.note({ kind: "virtual", virtual: i, active: up });
    else this.note({ kind: "member", pair: i >> 1, member: (i & 1) as 0 | 1, active: up });
  }

  private watchFlows(world: World) {
    for (const [flow, fare] of this.flows.in(world).entries()) {
      const { verdict, carriers, partly, uncertain, arrival } = fare;
      const spans = this.spans[flow];
      const last = spans.at(-1);
      if (last && sameOutcome(last, fare)) continue;
      if (last) {
        last.toMs = this.nowMs;
        if (last.fromMs === this.nowMs) spans.pop();
        this.note({ kind: "flow", flow, verdict, carriers });
      }
      const span = { fromMs: this.nowMs, toMs: null, verdict, carriers, partly, uncertain };
      spans.push(arrival ? { ...span, arrival } : span);
    }
  }
}
