import { endsOf, type PairRecord, type Roles, type State, withRoles } from "../network/index.ts";
import {
  flatTrips,
  type GatewayRecord,
  type Outcome,
  type Question,
  World,
  worstArrival,
  worstOf,
} from "../walk/index.ts";
import { probeSending, readWatch } from "./watches.ts";

/** Whether a member of a pair hears the other one: over any of their heartbeat links (rule 17.2). */
export function hearsOther(state: State, { heartbeats, members }: PairRecord, n: 0 | 1): boolean {
  const { network, linkAlive, carrier, deaf, deviceAlive } = state;
  if (members.some((d) => !deviceAlive[d])) return false;
  // Where the plan draws no heartbeat, they are taken to hear each other.
  if (heartbeats.length === 0) return true;
  return heartbeats.some((link) => {
    if (!linkAlive[link]) return false;
    const ends = Array.from(endsOf(network.links, link)).filter((end) => carrier[end]);
    const on = (d: number) => ends.filter((end) => network.interfaces.device[end] === d);
    return on(members[n]).some((end) => !deaf?.[end]) && on(members[1 - n]).length > 0;
  });
}

/** Whether both members of a pair hear each other. */
export function hearEachOther(state: State, pair: PairRecord): boolean {
  return hearsOther(state, pair, 0) && hearsOther(state, pair, 1);
}

/** How many of a member's monitored items are down; items that the standby cannot watch are treated as unwatched. */
function downOn(world: World, pair: PairRecord, n: 0 | 1): number {
  const { state } = world;
  const { interfaces, watches } = pair.monitors[n];
  const ports = interfaces.filter((i) => !state.carrierUp[i]).length;
  let active: World | null = null;
  const down = watches.filter((w) => {
    if (state.watchUp[w]) return false;
    const record = state.network.watches[w];
    if (state.roles.pairActive[pair.index * 2 + n] || !record.probe || probeSending(world, record))
      return true;
    active ??= asIfActive(world, pair, n);
    return !readWatch(active, w, new Set(), () => 0);
  });
  return ports + down.length;
}

/** A world as it would be, were a member of a pair the active one. */
export function asIfActive(world: World, { index }: PairRecord, n: 0 | 1): World {
  const pairActive = world.state.roles.pairActive.slice();
  pairActive[index * 2 + n] = 1;
  pairActive[index * 2 + 1 - n] = 0;
  return withPairs(world, pairActive);
}

/** A world in which a standby device is the active member; for any other device, the world itself. */
export function asIfInService(world: World, device: number): World {
  const { network, roles } = world.state;
  for (const pair of network.pairs)
    for (const n of [0, 1] as const)
      if (pair.members[n] === device && roles.pairActive[pair.index * 2 + n] === 0)
        return asIfActive(world, pair, n);
  return world;
}

function withPairs(world: World, pairActive: Uint8Array): World {
  return new World(withRoles(world.state, { ...world.state.roles, pairActive }), world.store);
}

/** Whether both members of a pair are active (rule 17.4). */
export function bothActive({ pairActive }: Roles, { index }: PairRecord): boolean {
  return pairActive[index * 2] > 0 && pairActive[index * 2 + 1] > 0;
}

/** Which pair members become active (rule 17): the active one remains unless it dies, its monitored items are worse
 * than the other's, or the preferred member is back and preempts. Members that do not hear each other are both active.
 * */
export function activeMembersIn(world: World): Uint8Array {
  const { state } = world;
  const { network, roles, deviceAlive } = state;
  const next = roles.pairActive.slice();
  for (const pair of network.pairs) {
    const at = pair.index * 2;
    const alive = pair.members.map((d) => deviceAlive[d] === 1);
    const set = (one: boolean, other: boolean) => {
      const both = one && other;
      next[at] = Number(one) + Number(both && pair.preferred === 0);
      next[at + 1] = Number(other) + Number(both && pair.preferred === 1);
    };
    if (!alive[0] || !alive[1]) set(alive[0], alive[1]);
    else if (!hearEachOther(state, pair)) {
      // A member that hears nothing takes over or remains active, unless its failure is reported to it (rule 2.6).
      const [one, other] = ([0, 1] as const).map(
        (n) => !hearsOther(state, pair, n) || roles.pairActive[at + n] > 0,
      );
      set(one, other);
    } else {
      const active = chosenOf(world, pair);
      set(active === 0, active === 1);
    }
  }
  return next;
}

function chosenOf(world: World, pair: PairRecord): 0 | 1 {
  const { pairActive } = world.state.roles;
  const [one, other] = [pairActive[pair.index * 2], pairActive[pair.index * 2 + 1]];
  const { preferred } = pair;
  // Both, or none yet: the preferred one stays.
  const active = one && other ? preferred : one ? 0 : other ? 1 : preferred;
  const standby = (1 - active) as 0 | 1;
  const [mine, theirs] = [downOn(world, pair, active), downOn(world, pair, standby)];
  if (theirs < mine) return standby;
  return active !== preferred && pair.preempt && theirs <= mine ? preferred : active;
}

/**
 * The worlds that one may be, where both members of a pair are active (rule 17.4): which of them a neighbour comes to is not
 * known, so each is heard in one of them. Past three such pairs one is taken at a time.
 */
export function variantsOf(world: World): readonly World[] {
  const { network, roles } = world.state;
  const split = network.pairs.filter((pair) => bothActive(roles, pair));
  if (split.length === 0) return [world];
  const swapped = (pairs: readonly PairRecord[]) => {
    const pairActive = roles.pairActive.slice();
    for (const { index } of pairs) {
      pairActive[index * 2] = 3 - pairActive[index * 2];
      pairActive[index * 2 + 1] = 3 - pairActive[index * 2 + 1];
    }
    return withPairs(world, pairActive);
  };
  const subsets =
    split.length > 3
      ? split.map((pair) => [pair])
      : Array.from({ length: 2 ** split.length - 1 }, (_, bits) =>
          split.filter((_, n) => (bits + 1) & (1 << n)),
        );
  return [world, ...subsets.map(swapped)];
}

/** A flow's result in a world. If it is unknown which pair member receives it, the worst result with all gateways. The
 * paths of the last walk remain in `flatTrips`. */
export function outcomeIn(world: World, question: Question, gateways: readonly GatewayRecord[]): Outcome {
  const trips = flatTrips(world.state.network);
  const worlds = world.state.network.pairs.length ? variantsOf(world) : null;
  if (!worlds || worlds.length === 1) return trips.outcome(world, question, gateways);
  // The world itself is walked last, so that its paths remain.
  const all = [...worlds.slice(1), world].map((one) => ({
    outcome: trips.outcome(one, question, gateways),
    ways: trips.ways().join(),
  }));
  const outcomes = all.map(({ outcome }) => outcome);
  return all.some(({ ways }) => ways !== all[0].ways) ? oneOf(outcomes) : worstOutcome(outcomes);
}

/** Of several outcomes the worst, each for what its flow must do. */
export function worstOutcome(outcomes: readonly Outcome[]): Outcome {
  const arrival = worstArrival(outcomes);
  return arrival ? { ...worstOf(outcomes), arrival } : worstOf(outcomes);
}

/** Where it is not known which of several outcomes comes about: the worst, with all gateways. */
export function oneOf(outcomes: readonly Outcome[]): Outcome {
  const carriers = [...new Set(outcomes.flatMap((outcome) => outcome.carriers))];
  return { ...worstOutcome(outcomes), uncertain: true, carriers };
}
