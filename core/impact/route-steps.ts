import type { Prefix } from "../address/index.ts";
import { destinationOf } from "../network/index.ts";
import { type Change, type Edit, routeIdentity, type StaticRoute } from "../plan/index.ts";
import { type DeviceTables, groupsUnlike, tablesWithout } from "../routes/index.ts";
import type { Scenario } from "../scenario/index.ts";
import { readTunnels, readWatches, sameBytes } from "../settle/index.ts";
import { World } from "../walk/index.ts";
import { candidateOf } from "./route-outcome.ts";

/** A route that a step takes in or out, as a candidate of the network that has all of them. */
interface Toggle {
  readonly candidate: number;
  readonly adds: boolean;
}

/** The states that an edit of routes passes through when its changes are applied one by one. One network holds all
 * routes, added and removed; a state only rebuilds the tables of the edited devices. */
export class RouteSteps {
  /** The devices on which routes come or go. */
  readonly devices: ReadonlySet<number>;

  private constructor(
    /** The network with every route that there is in any of the states. */
    readonly scenario: Scenario,
    private readonly steps: readonly (readonly Toggle[])[],
  ) {
    const { device } = scenario.network.candidates;
    this.devices = new Set(steps.flat().map(({ candidate }) => device[candidate]));
  }

  /** Null if the edit changes more than written routes, or if one route decides how another is installed. */
  static of(before: Scenario, edit: Edit): RouteSteps | null {
    const changes = edit.changes.flatMap(routeChangeOf);
    if (changes.length < edit.changes.length || before.settled.flapping.length) return null;
    const additions = changes.flatMap(({ device, after }): Change[] =>
      after ? [{ in: "device", device, collection: "routes", before: null, after }] : [],
    );
    const outcome = additions.length
      ? before.afterEdit({ label: edit.label, changes: additions })
      : { ok: true as const, scenario: before };
    if (!outcome.ok || outcome.scenario.settled.flapping.length) return null;
    const { scenario } = outcome;
    const steps = changes.map(({ device, before: out, after }): Toggle[] => {
      const toggle = (route: StaticRoute | null, adds: boolean): Toggle[] =>
        route ? [{ candidate: candidateOf(scenario.network, device, null, route), adds }] : [];
      return [...toggle(out, false), ...toggle(after, true)];
    });
    if (steps.flat().some(({ candidate }) => candidate < 0 || !isIndependent(scenario, candidate)))
      return null;
    return new RouteSteps(scenario, steps);
  }

  /** The world after the first `count` changes; null if watches or tunnels would differ in it from the start. */
  worldAfter(count: number): World | null {
    const { network, world } = this.scenario;
    const absent = new Map<number, Set<number>>();
    for (let n = 0; n < this.steps.length; n++) {
      for (const { candidate, adds } of this.steps[n]) {
        if (adds !== n >= count) continue;
        const device = network.candidates.device[candidate];
        const own = absent.get(device);
        if (own) own.add(candidate);
        else absent.set(device, new Set([candidate]));
      }
    }
    const instead = new Map<number, DeviceTables>();
    for (const [device, own] of absent)
      instead.set(device, tablesWithout(network, world.tablesOf(device), world.state, own));
    const now = new World(world.state, world.store, instead);
    const { watchUp, tunnelPasses } = world.state;
    if (watchUp.length && !sameBytes(readWatches(now), watchUp)) return null;
    if (tunnelPasses.length && !sameBytes(readTunnels(now, new Set()), tunnelPasses)) return null;
    return now;
  }

  /** The destinations that one of the devices may send elsewhere in one of these worlds than in another. */
  changedBetween(one: World, other: World): Prefix[] {
    const { network } = this.scenario;
    return [...this.devices].flatMap((device) =>
      groupsUnlike(network, one.tablesOf(device), other.tablesOf(device)).map((group) =>
        destinationOf(network, network.groups.start[group]),
      ),
    );
  }
}

interface RouteChange {
  readonly device: string;
  readonly before: StaticRoute | null;
  readonly after: StaticRoute | null;
}

/** A change as a change of one device's written routes; empty for any other change, or if the route keeps its identity.
 * */
function routeChangeOf(change: Change): RouteChange[] {
  if (change.in !== "device" || change.collection !== "routes") return [];
  const [before, after] = [change.before, change.after] as (StaticRoute | null)[];
  if (before && after && routeIdentity(before) === routeIdentity(after)) return [];
  return [{ device: change.device, before, after }];
}

/** Whether a route says nothing about the others: no second default is refused, no gateway watched for its sake. */
function isIndependent({ network }: Scenario, c: number): boolean {
  const { profile } = network.devices[network.candidates.device[c]];
  return profile.secondDefault !== "refuse" && !profile.deadGatewayMs && network.candidates.fault[c] === 0;
}
