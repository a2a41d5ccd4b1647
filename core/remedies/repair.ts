import {
  type Address,
  containsAddress,
  defaultPrefix,
  type Family,
  formatAddress,
  formatPrefix,
  halves,
  type Prefix,
  parsePrefix,
  widthOf,
} from "../address/index.ts";
import { harmsAnything } from "../impact/index.ts";
import { addressesOf, attachmentsOf, endsOf, type Network, type State } from "../network/index.ts";
import { applyEdit, type Change, describeRoute, type Edit, type StaticRoute } from "../plan/index.ts";
import type { Scenario } from "../scenario/index.ts";
import { type Question, type Trip, type Walk, walkBothWays } from "../walk/index.ts";

/** Routes that one mending writes at most. */
const MAX_ROUTES = 4;
/** Neighbours that are tried at most. */
const MAX_TRIED = 40;

/** Routes that repair a failing question: wherever the packet or its reply stops without a route or loops, one route
 * through a neighbor that brings it farther. The edit is proven: the question works, and no other reachable destination
 * gets worse (`harmsAnything`). Null if no such routes exist. */
export function repairOf(scenario: Scenario, question: Question): Edit | null {
  return repaired(scenario, question, WANTING);
}

/** Routes that lead a question around a blocking policy, proven the same way. Each is written for both halves of its
 * network, so that it is preferred over any route to the whole. */
export function detourOf(scenario: Scenario, question: Question): Edit | null {
  return repaired(scenario, question, BLOCKED);
}

/** What routes are written against, and for which destinations. */
interface Manner {
  readonly against: ReadonlySet<string> | null;
  readonly destinations: (
    scenario: Scenario,
    device: number,
    address: Address,
    subnet: Prefix,
  ) => Destination[];
}

/** Where a route is wanting, or leads in a circle. */
const WANTING: Manner = {
  against: new Set(["no-route", "looped", "discarded", "rejected", "private-at-internet"]),
  destinations: (scenario, device, address, subnet) => [destinationOn(scenario, device, address, subnet)],
};

/** Whatever the drop. */
const BLOCKED: Manner = {
  against: null,
  destinations: (_scenario, _device, { family }, subnet) =>
    subnet.length < widthOf(family)
      ? halves(subnet).map((half) => ({ to: formatPrefix(half) }))
      : [{ to: formatPrefix(subnet) }],
};

function repaired(scenario: Scenario, question: Question, manner: Manner): Edit | null {
  const changes: Change[] = [];
  let now = scenario;
  for (let n = 0; n < MAX_ROUTES; n++) {
    const trip = walkBothWays(now.engine.healthy.world, question);
    if (trip.verdict === "works") return changes.length ? provenEdit(scenario, now, changes) : null;
    const next = stepOf(now, question, trip, manner);
    if (!next) return null;
    changes.push(...next.changes);
    now = next.after;
  }
  const works = walkBothWays(now.engine.healthy.world, question).verdict === "works";
  return works ? provenEdit(scenario, now, changes) : null;
}

/** The edit, where it makes nothing worse. */
function provenEdit(before: Scenario, after: Scenario, changes: Change[]): Edit | null {
  const edit = editOf(after, changes);
  return harmsAnything(before, after, edit) ? null : edit;
}

function editOf({ engine }: Scenario, changes: Change[]): Edit {
  const texts = changes.map((change) => {
    const label = engine.network.plan.devices.find(
      (d) => "device" in change && d.id === change.device,
    )?.label;
    const at = "device" in change ? (label ?? change.device) : "";
    return `${describeRoute(change.after as StaticRoute)} on ${at}`;
  });
  return { label: `Add ${texts.join(", and ")}`.slice(0, 300), changes };
}

/** The routes that bring the packet or its reply farthest, added. */
function stepOf(
  scenario: Scenario,
  question: Question,
  trip: Trip,
  { against, destinations }: Manner,
): { changes: Change[]; after: Scenario } | null {
  const { outbound, reply } = trip.worst;
  const walk = outbound.drop ? outbound : reply;
  const drop = walk?.drop;
  if (!walk || !drop) return null;
  if (against && !against.has(drop.code)) return null;
  const { network } = scenario.engine;
  // A sender without a route has chosen no source yet, and so has no packet.
  const destination = walk.packet?.destination ?? (walk === outbound ? question.destination : null);
  if (!destination) return null;
  const to = subnetOf(network, destination);
  if (!to) return null;
  const away = distancesTo(scenario.engine.healthy.world.state, destination);
  const nearest = (way: Walk) => Math.min(...way.hops.map((hop) => away[hop.device]));
  const reached = nearest(walk);
  let tried = 0;
  for (const device of strayDevices(network, walk)) {
    const options: { changes: Change[]; after: Scenario; left: number }[] = [];
    for (const { via, out } of neighboursOf(network, device, destination.family, away)) {
      if (tried++ > MAX_TRIED) break;
      const { id, profile } = network.devices[device];
      const changes = destinations(scenario, device, destination, to).map((of): Change => {
        const route: StaticRoute = { ...of, via, ...(profile.interfaceRequired && { out }) };
        return { in: "device", device: id, collection: "routes", before: null, after: route };
      });
      const outcome = applyEdit(network.plan, { label: "try", changes });
      if (!outcome.ok) continue;
      const after = scenario.after(outcome.plan);
      const then = walkBothWays(after.engine.healthy.world, question).worst;
      const way = outbound.drop ? then.outbound : then.reply;
      if (!way || (!outbound.drop && then.outbound.drop)) continue;
      if (way.result === "delivered") return { changes, after };
      // It need not arrive at once: a step that comes nearer than before is followed by another.
      if (nearest(way) < reached) options.push({ changes, after, left: nearest(way) });
    }
    options.sort((a, b) => a.left - b.left);
    if (options[0]) return options[0];
  }
  return null;
}

type Destination = Pick<StaticRoute, "to" | "distance" | "metric">;

/**
 * What a route to an address would be written for on a device: where a written route for it is out of use
 * under the conditions, the same prefix behind it; else the network that holds the address.
 */
function destinationOn({ engine }: Scenario, device: number, address: Address, subnet: Prefix): Destination {
  const { network, base } = engine;
  // A host has a gateway rather than routes.
  if (network.devices[device].role === "host") return { to: formatPrefix(defaultPrefix(address.family)) };
  const { staticDistance } = network.devices[device].profile;
  const written = network.plan.devices[device].routes.flatMap((route) => {
    const prefix = parsePrefix(route.to);
    const holds = prefix && prefix.length > 0 && containsAddress(prefix, address);
    return holds && route.enabled !== false && (route.vrf ?? "main") === "main" ? [{ route, prefix }] : [];
  });
  const longest = Math.max(-1, ...written.map(({ prefix }) => prefix.length));
  const alike = written.filter(({ prefix }) => prefix.length === longest).map(({ route }) => route);
  if (base.length === 0 || alike.length === 0) return { to: formatPrefix(subnet) };
  const { to } = alike[0];
  if (staticDistance === null) return { to, metric: Math.max(...alike.map((r) => r.metric ?? 0)) + 10 };
  return { to, distance: Math.min(254, Math.max(...alike.map((r) => r.distance ?? staticDistance)) + 10) };
}

/** Where a walk went astray: where it ended, and before that each device of ours that sent it there. */
function strayDevices(network: Network, walk: Walk): number[] {
  const ours = (device: number) => !["internet", "provider"].includes(network.devices[device].role);
  const devices = walk.hops.map((hop) => hop.device).toReversed();
  return [...new Set(devices.filter(ours))];
}

/** The network that holds an address: the subnet of an interface, the longest. */
function subnetOf(network: Network, address: Address): Prefix | null {
  let best: Prefix | null = null;
  for (const { prefix } of attachmentsOf(network)) {
    if (containsAddress(prefix, address) && (!best || prefix.length > best.length)) best = prefix;
  }
  return best;
}

/** Neighbours of a device that forward, those nearest to the address first. */
function neighboursOf(network: Network, device: number, family: Family, away: readonly number[]) {
  const { interfaces, links } = network;
  const record = network.devices[device];
  const found: { via: string; out: string; distance: number }[] = [];
  for (let i = record.firstInterface; i < record.endInterface; i++) {
    if (interfaces.link[i] < 0) continue;
    for (const end of endsOf(links, interfaces.link[i])) {
      const other = interfaces.device[end];
      const { role } = network.devices[other];
      if (other === device || role === "host" || role === "internet") continue;
      const [via] = addressesOf(network, end, family);
      if (via) found.push({ via: formatAddress(via), out: interfaces.names[i], distance: away[other] });
    }
  }
  return found.sort((a, b) => a.distance - b.distance);
}

/** Links that still carry between each device and those attached to the network of an address. */
function distancesTo(state: State, address: Address): number[] {
  const { network, interfaceAlive, linkAlive } = state;
  const { interfaces, links } = network;
  const away = network.devices.map(() => Number.POSITIVE_INFINITY);
  const open: number[] = [];
  for (const { prefix, device } of attachmentsOf(network)) {
    if (away[device] === 0 || !containsAddress(prefix, address)) continue;
    away[device] = 0;
    open.push(device);
  }
  for (let at = open.shift(); at !== undefined; at = open.shift()) {
    const record = network.devices[at];
    for (let i = record.firstInterface; i < record.endInterface; i++) {
      if (interfaces.link[i] < 0 || !interfaceAlive[i] || !linkAlive[interfaces.link[i]]) continue;
      for (const end of endsOf(links, interfaces.link[i])) {
        const other = interfaces.device[end];
        if (!interfaceAlive[end]) continue;
        if (away[other] <= away[at] + 1) continue;
        away[other] = away[at] + 1;
        if (network.devices[other].role !== "host") open.push(other);
      }
    }
  }
  return away;
}
