import { addTo, type CopyBytes, differing, onceFor, sliced } from "../collections/index.ts";
import {
  type ElementNumber,
  elementParts,
  endsOf,
  findNeighbour,
  firstRoles,
  type Network,
  ownVirtualsOf,
  type Physical,
  physicalState,
  type Roles,
  restsOnOwnRole,
  type State,
  stateOf,
  tunnelsPassing,
  viaOf,
  virtualsOnLink,
} from "../network/index.ts";
import { TableStore } from "../routes/index.ts";
import { type GatewayRecord, gatewaysOf, shareBook, shareQuestions, World } from "../walk/index.ts";
import { activeMembersIn, variantsOf } from "./pairs.ts";
import { tunnelsNear, watchesNear } from "./readings.ts";
import { judgedAnew, readTunnels } from "./tunnels.ts";
import { electedIn } from "./virtual-routers.ts";
import { groupUp, readWatches } from "./watches.ts";

/** What the engine keeps for one network: its tables by local state, and the world that it starts from. */
export interface Engine {
  readonly network: Network;
  readonly store: TableStore;
  /** Elements that are down from the start, ascending; empty unless the conditions name some. */
  readonly base: readonly ElementNumber[];
  /** No failures, but for the base. */
  readonly healthy: Settled;
  /** The exits that distinguish flows, determined with nothing down, whatever the base. */
  readonly gateways: readonly GatewayRecord[];
}

export interface Settled {
  readonly world: World;
  /** Where watches never come to rest (rule 9.5): the worlds that follow each other in turn. */
  readonly flapping: readonly World[];
  /** Tunnels whose underlay leads into themselves (rule 2.5). */
  readonly selfTunnels: ReadonlySet<number>;
}

/**
 * The worlds that a steady state consists of: one, where watches flap those that follow each other, and where both of a
 * pair are active those that it may be.
 */
export function worldsOf(settled: Settled): readonly World[] {
  const { world, flapping } = settled;
  if (world.state.network.pairs.length === 0) return flapping.length ? flapping : [world];
  return (flapping.length ? flapping : [world]).flatMap(variantsOf);
}

/** Rounds after which an unsettled network counts as flapping even without a repeated state. */
const MAX_ROUNDS = 200;

/** `like` is the engine of the network this one was edited from: results that the edit does not affect are reused. */
export function createEngine(network: Network, like?: Engine): Engine {
  if (like) {
    shareBook(network, like.network);
    shareQuestions(network, like.network);
  }
  const store = new TableStore(network, like?.store);
  const healthy = settleFrom(network, store, [], null);
  store.beginWith(healthy.world.state);
  return { network, store, base: [], healthy, gateways: gatewaysOf(healthy.world) };
}

/** The same network with these elements down from the start; further failures add to them. */
export function engineUnder(engine: Engine, failed: readonly ElementNumber[]): Engine {
  if (failed.length === 0) return engine;
  const base = [...new Set([...engine.base, ...failed])].sort((a, b) => a - b);
  return { ...engine, base, healthy: settle(engine, base) };
}

/**
 * The steady state under a set of failed elements (rule 10.1), reached from the engine's own. `copy` makes what its states are
 * written in.
 */
export function settle(engine: Engine, failed: readonly ElementNumber[], copy: CopyBytes = sliced): Settled {
  const sorted = [...new Set([...engine.base, ...failed])].sort((a, b) => a - b);
  if (sorted.length === engine.base.length) return engine.healthy;
  const { tunnelPasses, watchUp, roles } = engine.healthy.world.state;
  const { network, store, healthy } = engine;
  const from = { tunnelPasses: judgedAnew(tunnelPasses), watchUp, roles };
  return settleFrom(network, store, sorted, from, healthy.world, copy);
}

/** The steady state that the engine's own comes to once these watches have gone down, with nothing more failed. */
export function settleFromWatches(engine: Engine, down: readonly number[]): Settled {
  const { state } = engine.healthy.world;
  const watchUp = state.watchUp.slice();
  for (const watch of down) watchUp[watch] = 0;
  const from = { tunnelPasses: state.tunnelPasses, watchUp, roles: state.roles };
  return settleFrom(engine.network, engine.store, engine.base, from, engine.healthy.world);
}

type Beliefs = Pick<State, "tunnelPasses" | "watchUp" | "roles">;

function settleFrom(
  network: Network,
  store: TableStore,
  failed: readonly ElementNumber[],
  from: Beliefs | null,
  near: World | null = null,
  copy: CopyBytes = sliced,
): Settled {
  const start = from ?? {
    tunnelPasses: tunnelsPassing(network),
    watchUp: new Uint8Array(network.watches.length).fill(1),
    roles: firstRoles(network),
  };
  const read = near
    ? (world: World, self: Set<number>): Beliefs => ({
        tunnelPasses: tunnelsNear(near, world, self),
        watchUp: watchesNear(near, world),
        roles: readRoles(world, false),
      })
    : readAll;
  const worlds = new Worlds(network, store, failed, copy);
  const together = run(worlds, start, Number.POSITIVE_INFINITY, read);
  // What seems to swing when all watches move at once may come to rest when one moves after the other.
  return together.flapping.length ? run(worlds, start, 1, read) : together;
}

/** Runs until nothing changes, at most `atOnce` watches and tunnels moving in a round. */
function run(
  worlds: Worlds,
  start: Beliefs,
  atOnce: number,
  read: (world: World, selfTunnels: Set<number>) => Beliefs,
): Settled {
  const selfTunnels = new Set<number>();
  const history: { beliefs: Beliefs; turn: string; world: World }[] = [];
  /** Where one at a time moves, each has its turn: one that swings for ever must not hold up the others. */
  const turn = { tunnelPasses: 0, watchUp: 0 };
  let beliefs = start;
  for (;;) {
    const world = worlds.where(beliefs);
    const { tunnelPasses, watchUp } = beliefs;
    const now = read(world, selfTunnels);
    if (sameBeliefs(now, beliefs)) return { world, flapping: [], selfTunnels };
    const turned = `${turn.tunnelPasses} ${turn.watchUp}`;
    const earlier = history.findIndex((past) => past.turn === turned && sameBeliefs(past.beliefs, beliefs));
    if (earlier >= 0 || history.length >= MAX_ROUNDS) {
      return {
        world,
        flapping: history.slice(Math.max(earlier, 0)).map((entry) => entry.world),
        selfTunnels,
      };
    }
    history.push({ beliefs, turn: turned, world });
    beliefs = {
      tunnelPasses: limited(tunnelPasses, now.tunnelPasses, atOnce, turn, "tunnelPasses"),
      watchUp: limited(watchUp, promptFirst(worlds.network, watchUp, now.watchUp), atOnce, turn, "watchUp"),
      roles: now.roles,
    };
  }
}

/**
 * The next readings of all watches. Watches without delay (interfaces, routes and groups of these) change first: probes and
 * sessions take time, so they see the network after those changes (rule 10.1).
 */
function promptFirst(network: Network, from: Uint8Array, to: Uint8Array): Uint8Array {
  const moving = differing(from, to);
  const kinds = new Set(moving.map((w) => network.watches[w].watch.kind));
  const slow = kinds.has("probe") || kinds.has("bfd");
  if (!slow || !(kinds.has("interface") || kinds.has("route"))) return to;
  const next = from.slice();
  for (const w of moving) {
    const { kind } = network.watches[w].watch;
    if (kind === "interface" || kind === "route") next[w] = to[w];
  }
  // A group may hold another: each level takes a round.
  for (let changed = true; changed; ) {
    changed = false;
    for (const { watch, index, members } of network.watches) {
      if (watch.kind !== "group" || (!to[index] && !from[index])) continue;
      const up = Number(groupUp(watch.need, members.filter((m) => next[m]).length, members.length));
      if (up === next[index]) continue;
      next[index] = up;
      changed = true;
    }
  }
  return next;
}

/** All readings of tunnels and watches and all roles in a world, as if everything had just started. */
function readAll(world: World, selfTunnels: Set<number>): Beliefs {
  return {
    tunnelPasses: readTunnels(world, selfTunnels),
    watchUp: readWatches(world),
    roles: readRoles(world, true),
  };
}

/** The roles for shared addresses (rules 14 and 17). */
function readRoles(world: World, anew: boolean): Roles {
  const { network, roles } = world.state;
  if (network.virtuals.length === 0 && network.pairs.length === 0) return roles;
  return { virtualActive: electedIn(world.state, anew), pairActive: activeMembersIn(world) };
}

export function sameRoles(a: Roles, b: Roles): boolean {
  return sameBytes(a.virtualActive, b.virtualActive) && sameBytes(a.pairActive, b.pairActive);
}

/** Worlds under the same failures: those that differ in watches only share everything else. */
class Worlds {
  private last: World | null = null;

  constructor(
    readonly network: Network,
    private readonly store: TableStore,
    private readonly failed: readonly ElementNumber[],
    private readonly copy: CopyBytes,
  ) {}

  /** The world with these beliefs about tunnels, watches and roles. */
  where({ tunnelPasses, watchUp, roles }: Beliefs): World {
    const known = this.last?.state;
    const alike = known && sameBytes(known.tunnelPasses, tunnelPasses) && sameRoles(known.roles, roles);
    const { network, failed, copy } = this;
    const physical = alike ? known : physicalState(network, failed, tunnelPasses, roles, copy);
    const answers = alike ? known.answers : readAnswers(physical, copy);
    const state = stateOf(physical, { carrierUp: physical.carrier, watchUp, answers });
    const world = new World(state, this.store, null, copy);
    this.last = world;
    return world;
  }
}

/** Which of the neighbors that candidates depend on answer now (rules 3.3, 7.1, 7.4). `late` lists interfaces whose
 * devices have not yet detected their condition. */
export function readAnswers(
  physical: Physical,
  copy: CopyBytes = sliced,
  late: readonly number[] = [],
): Uint8Array {
  const { network, struck } = physical;
  const { candidates, links } = network;
  const { answers, onLink, elsewhere } = untouchedAnswers(network);
  if (answers.length === 0) return answers;
  const now = copy(answers);
  const read = (slot: number) => {
    now[slot] = Number(neighbourAnswers(physical, candidates.answering[slot]));
  };
  for (const slot of elsewhere) read(slot);
  const readOn = (link: number) => {
    for (const slot of onLink.get(link) ?? []) read(slot);
  };
  for (const element of struck)
    for (const link of linksOf(network, element)) {
      readOn(link);
      for (const rider of links.riders.get(link) ?? []) readOn(rider);
    }
  for (const i of late) readOn(network.interfaces.link[i]);
  return now;
}

interface UntouchedAnswers {
  /** Which neighbours answer while nothing has failed. */
  readonly answers: Uint8Array;
  /** Slots of neighbours on a plain link, which only a failure there can change. */
  readonly onLink: ReadonlyMap<number, readonly number[]>;
  /** All others: over tunnels, or wherever the neighbour is found. */
  readonly elsewhere: readonly number[];
}

const untouchedAnswers = onceFor((network: Network): UntouchedAnswers => {
  const { candidates, interfaces } = network;
  const physical = physicalState(network, [], tunnelsPassing(network), firstRoles(network));
  const onLink = new Map<number, number[]>();
  const elsewhere: number[] = [];
  for (const [slot, c] of candidates.answering.entries()) {
    const out = candidates.out[c];
    const link = out < 0 || !isPlain(network, c, out) ? -1 : interfaces.link[out];
    if (link < 0) elsewhere.push(slot);
    else addTo(onLink, link, slot);
  }
  const answers = Uint8Array.from(candidates.answering, (c) => Number(neighbourAnswers(physical, c)));
  return { answers, onLink, elsewhere };
});

/** Whether only a failure on its own link changes whether a neighbour answers: nothing else stands behind it. */
function isPlain(network: Network, c: number, out: number): boolean {
  const { interfaces, links, twin } = network;
  const link = interfaces.link[out];
  if (interfaces.tunnel[out] >= 0 || link < 0) return false;
  const via = viaOf(network, c);
  if (via && virtualsOnLink(network, link, via).length) return false;
  return endsOf(links, link).every(
    (end) => twin[end] < 0 && interfaces.parent[end] < 0 && interfaces.bundle[end] < 0,
  );
}

/** The links that the failure of an element touches. */
function linksOf(network: Network, element: ElementNumber): number[] {
  const { kind, index } = elementParts(network, element);
  if (kind === "link") return [index];
  if (kind === "interface") return [network.interfaces.link[index]];
  if (kind === "direction") return [network.interfaces.link[network.links.ends[index]]];
  if (kind === "watch" || kind === "fate") return [];
  const { firstInterface, endInterface } = network.devices[index];
  return Array.from(network.interfaces.link.subarray(firstInterface, endInterface));
}

function neighbourAnswers(physical: Physical, c: number): boolean {
  const { network, roles } = physical;
  const { candidates } = network;
  // A device that owns the next hop itself has no neighbor there (rule 4.4).
  if (ownVirtualsOf(network, c).some(({ index }) => roles.virtualActive[index])) return false;
  if (restsOnOwnRole(network, c)) return true;
  const via = viaOf(network, c);
  const peer = candidates.peer[c];
  if (candidates.out[c] >= 0) {
    const out = candidates.out[c];
    return (
      physical.interfaceAlive[out] === 1 && findNeighbour(physical, out, via, peer).contact === "answers"
    );
  }
  const device = network.devices[candidates.device[c]];
  let known = false;
  for (let i = device.firstInterface; i < device.endInterface; i++) {
    const neighbour = findNeighbour(physical, i, via);
    if (neighbour.interface < 0) continue;
    known = true;
    if (neighbour.contact === "answers" && physical.interfaceAlive[i]) return true;
  }
  // A neighbour that is on none of the device's links answers as long as it can be resolved.
  return !known;
}

function sameBeliefs(a: Beliefs, b: Beliefs): boolean {
  return (
    sameBytes(a.tunnelPasses, b.tunnelPasses) &&
    sameBytes(a.watchUp, b.watchUp) &&
    sameRoles(a.roles, b.roles)
  );
}

/** All that moves, or the first from whose turn it is. */
function limited<K extends string>(
  from: Uint8Array,
  to: Uint8Array,
  atOnce: number,
  turn: Record<K, number>,
  key: K,
): Uint8Array {
  if (atOnce === Number.POSITIVE_INFINITY) return to;
  const moving = differing(from, to);
  const next = moving.find((i) => i >= turn[key]) ?? moving[0];
  if (next === undefined) return from;
  turn[key] = next + 1;
  return from.map((value, i) => (i === next ? to[i] : value));
}

export function sameBytes(a: Uint8Array, b: Uint8Array): boolean {
  if (a === b) return true;
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}
