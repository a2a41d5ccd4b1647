import { addTo, onceFor } from "../collections/index.ts";
import { type ElementNumber, endsOf, interfaceWritten, type Network } from "../network/index.ts";
import { type Engine, outcomeIn, type Settled, worldsOf } from "../settle/index.ts";
import {
  carriersOf,
  type FlowQuestion,
  type GatewayRecord,
  type Question,
  type World,
  walkPacket,
} from "../walk/index.ts";
import { effectClasses } from "./effects.ts";

/** A flow and its demand in Mbit/s. */
export interface Load {
  readonly id: string;
  readonly question: Question;
  readonly mbps: number;
}

/** The flows with a known demand; empty if the plan states no capacity. */
export function loadsOf(network: Network, flows: readonly FlowQuestion[]): Load[] {
  if (!hasCapacities(network)) return [];
  return flows.flatMap(({ flow, question }) =>
    flow.mbps === undefined ? [] : [{ id: flow.id, question, mbps: flow.mbps }],
  );
}

/** A gateway or a link, in one direction, that is to carry more than it can (rule 19). */
export interface Overload {
  readonly kind: "gateway" | "link";
  /** The gateway's position, or the link's number. */
  readonly index: number;
  readonly mbps: number;
  readonly room: number;
  /** Positions of the flows that it carries. */
  readonly flows: readonly number[];
  /** The failed elements; empty for the state with nothing failed. */
  readonly failed: readonly ElementNumber[];
}

/** What carries how much, and whose. */
interface Carried {
  mbps: number;
  readonly flows: Set<number>;
}

/** What links ride on, each with all that carries it. */
const underOf = onceFor(({ links }: Network) => {
  const under = new Map<number, number[]>();
  for (const [at, riders] of links.riders) for (const rider of riders) addTo(under, rider, at);
  return under;
});

/** Interfaces and links over their capacity, with nothing failed and under every single failure. Each direction counts
 * separately, equal cost splits by weight, tunnels count on their underlay, and a bundle has the capacity of its
 * members that are up (rule 19). */
export function overloads(
  engine: Engine,
  gateways: readonly GatewayRecord[],
  loads: readonly Load[],
  settle: (failed: readonly ElementNumber[]) => Settled,
): Overload[] {
  if (loads.length === 0) return [];
  const found = new Worst();
  found.takeAll(overloadsIn(worldsOf(engine.healthy), gateways, loads, []));
  for (const { element } of effectClasses(engine.network))
    found.takeAll(overloadsIn(worldsOf(settle([element])), gateways, loads, [element]));
  return found.all();
}

/** Interfaces and links over their capacity, per direction; with several possible worlds, the worst one. */
export function overloadsIn(
  worlds: readonly World[],
  gateways: readonly GatewayRecord[],
  loads: readonly Load[],
  failed: readonly ElementNumber[],
): Overload[] {
  const found = new Worst();
  for (const world of worlds) found.takeAll(overloadsOf(world, gateways, loads, failed));
  return found.all();
}

/** Of each gateway and link the case in which most is too much. */
class Worst {
  private readonly found = new Map<string, Overload>();

  takeAll(list: readonly Overload[]) {
    for (const over of list) {
      const key = `${over.kind} ${over.index}`;
      const worst = this.found.get(key);
      if (!worst || over.mbps - over.room > worst.mbps - worst.room) this.found.set(key, over);
    }
  }

  all(): Overload[] {
    return [...this.found.values()];
  }
}

function hasCapacities({ plan }: Network): boolean {
  return [...plan.links, ...plan.gateways, ...plan.devices.flatMap((d) => d.interfaces)].some(
    ({ mbps }) => mbps !== undefined,
  );
}

function overloadsOf(
  world: World,
  gateways: readonly GatewayRecord[],
  loads: readonly Load[],
  failed: readonly ElementNumber[],
): Overload[] {
  const { network } = world.state;
  const onGateways = new Map<number, Carried>();
  const onLinks = new Map<string, Carried>();
  const put = <K>(map: Map<K, Carried>, key: K, flow: number, mbps: number) => {
    const carried = map.get(key) ?? { mbps: 0, flows: new Set<number>() };
    carried.mbps += mbps;
    carried.flows.add(flow);
    map.set(key, carried);
  };
  for (const [f, { question, mbps }] of loads.entries()) {
    if (outcomeIn(world, question, gateways).verdict !== "works") continue;
    const walks = walkPacket(world, question);
    for (const walk of walks) {
      const share = mbps * walk.share;
      for (const g of carriersOf(gateways, [walk])) put(onGateways, g, f, share);
      for (const { out } of walk.hops)
        for (const [link, forth] of out < 0 ? [] : linksUnder(network, out))
          put(onLinks, `${link} ${forth}`, f, share);
    }
  }
  const over: Overload[] = [];
  const tell = (kind: Overload["kind"], index: number, room: number | null, { mbps, flows }: Carried) => {
    if (room !== null && mbps > room) over.push({ kind, index, mbps, room, flows: [...flows], failed });
  };
  for (const [g, carried] of onGateways) tell("gateway", g, gatewayCapacity(network, gateways[g]), carried);
  for (const [key, carried] of onLinks) {
    const link = Number(key.split(" ")[0]);
    tell("link", link, linkCapacity(world, link), carried);
  }
  return over;
}

/** The links that a packet loads which leaves by an interface, each with its direction: its own, and all that carry it. */
function linksUnder(network: Network, out: number): [number, boolean][] {
  const { interfaces, links } = network;
  const list: [number, boolean][] = [];
  const add = (i: number) => {
    const link = interfaces.link[i];
    if (link < 0) return;
    const forth = endsOf(links, link)[0] === i;
    list.push([link, forth]);
    for (const under of underOf(network).get(link) ?? []) list.push([under, forth]);
  };
  add(out);
  if (interfaces.parent[out] >= 0) add(interfaces.parent[out]);
  return list;
}

function gatewayCapacity({ plan }: Network, { id }: GatewayRecord): number | null {
  return plan.gateways.find((gateway) => gateway.id === id)?.mbps ?? null;
}

/** The capacity of a link in one direction in Mbit/s; for two bundles the sum of the members that are up. Null if
 * unknown. */
function linkCapacity({ state }: World, link: number): number | null {
  const { network } = state;
  const { interfaces, links, bundles } = network;
  if (link < links.planned) return statedCapacity(network, link, Array.from(endsOf(links, link)));
  const bundle = Array.from(endsOf(links, link), (end) => interfaces.bundle[end]).find((b) => b >= 0);
  if (bundle === undefined) return null;
  const rooms = bundles[bundle].members
    .filter((m) => state.carrierUp[m])
    .map((m) => (interfaces.link[m] < 0 ? null : statedCapacity(network, interfaces.link[m], [m])));
  return rooms.includes(null) ? null : rooms.reduce<number>((sum, room) => sum + (room ?? 0), 0);
}

/** The lowest capacity stated for a link and the given interfaces. */
function statedCapacity(network: Network, link: number, ends: readonly number[]): number | null {
  const told = ends.map((i) => interfaceWritten(network, i).mbps);
  const all = [network.plan.links[link].mbps, ...told].filter((mbps) => mbps !== undefined);
  return all.length ? Math.min(...all) : null;
}
