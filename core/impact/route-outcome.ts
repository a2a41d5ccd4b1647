import { containsPrefix } from "../address/index.ts";
import { onceFor } from "../collections/index.ts";
import { destinationOf, findNeighbour, type Network, sourceCodes } from "../network/index.ts";
import { routeIdentity, type StaticRoute } from "../plan/index.ts";
import { inOrder, type RouteReport, routeReport } from "../reports/index.ts";
import { chainOf, nextHopsOf, stateCodes } from "../routes/index.ts";
import type { World } from "../walk/index.ts";
import { routeText } from "../words/index.ts";

/** A written route's outcome: its state, its resolution, and the routes it is preferred over. */
export interface RouteOutcome {
  device: string;
  label: string;
  /** The policy table that it stands in, or null. */
  table: string | null;
  report: RouteReport;
  /** The routes through which the next hop resolves, the attachment last; empty where it does not. */
  chain: string[];
  /** Who owns the next hop, and whether it answers; null where the route names none or it does not resolve. */
  neighbour: { device: string; label: string; interface: string; answers: boolean; out: string } | null;
  /** Nobody owns the next hop, although its subnet is attached. */
  ownerless: boolean;
  /** Candidates for the same destination that stand behind it, and the one in use before it. */
  beats: string[];
  beatenBy: string | null;
  /** Wider or narrower routes in use that share its addresses, the nearest first. */
  within: string | null;
  holds: number;
}

/** The candidate that a written route of a device became, by the route's identity, or -1. `table` is a policy table. */
export function candidateOf(
  network: Network,
  deviceId: string,
  table: string | null,
  route: StaticRoute,
): number {
  const device = network.devices[network.deviceIndex.get(deviceId) ?? -1];
  if (!device) return -1;
  const { candidates } = network;
  const planned = network.plan.devices[device.index];
  const own = table === null ? -1 : device.policyTables.findIndex((t) => t.name === table);
  const routes = table === null ? planned.routes : (planned.policyTables[own]?.routes ?? []);
  const position = positionsOf(routes).get(routeIdentity(route));
  if (position === undefined) return -1;
  for (let c = device.firstCandidate; c < device.endCandidate; c++) {
    if (candidates.source[c] !== sourceCodes.static || candidates.order[c] !== position) continue;
    const number = candidates.table[c];
    if (own < 0 ? number < device.vrfs.length : number === device.policyTables[own].table) return c;
  }
  return -1;
}

/** The places of written routes in their list, by identity; of two that are alike, the first. */
const positionsOf = onceFor((routes: readonly StaticRoute[]) => {
  const positions = new Map<string, number>();
  for (const [position, route] of routes.entries()) {
    const identity = routeIdentity(route);
    if (!positions.has(identity)) positions.set(identity, position);
  }
  return positions;
});

/** The outcome of a candidate in a world. */
export function routeOutcome(world: World, c: number): RouteOutcome {
  const { network } = world.state;
  const tables = world.tablesOf(network.candidates.device[c]);
  const { device } = tables;
  const report = routeReport(world, c);
  const [hop] = nextHopsOf(network, tables, c);
  const usable = report.state === "in-use" || report.state === "standby";
  const neighbour = hop ? findNeighbour(world.state, hop.out, hop.address, hop.peer) : null;
  const alike = inOrder(network, tables, network.candidates.group[c]);
  const stateOf = (x: number) => tables.state[x - device.firstCandidate];
  const usedBy = alike.find((x) => x !== c && stateOf(x) === stateCodes["in-use"]);
  return {
    device: device.id,
    label: device.label,
    table: device.policyTables.find((table) => table.table === network.candidates.table[c])?.name ?? null,
    report,
    chain: usable ? chainOf(network, tables, c).map((x) => routeText(network, x)) : [],
    neighbour: neighbour && neighbour.interface >= 0 && hop ? named(neighbour.interface) : null,
    ownerless: usable && hop?.address != null && neighbour?.interface === -1,
    beats:
      report.state === "in-use"
        ? alike.filter((x) => stateOf(x) === stateCodes.standby).map((x) => routeText(network, x))
        : [],
    beatenBy: report.state === "standby" && usedBy !== undefined ? routeText(network, usedBy) : null,
    ...surroundings(),
  };

  function named(i: number) {
    const owner = network.devices[network.interfaces.device[i]];
    return {
      device: owner.id,
      label: owner.label,
      interface: network.interfaces.names[i],
      answers: neighbour?.contact === "answers",
      out: network.interfaces.names[hop?.out ?? 0],
    };
  }

  /** The nearest wider route in use around the destination, and how many narrower ones stand inside it. */
  function surroundings() {
    const { candidates } = network;
    const own = destinationOf(network, c);
    let wider: number | null = null;
    let holds = 0;
    for (let x = device.firstCandidate; x < device.endCandidate; x++) {
      if (candidates.table[x] !== candidates.table[c] || candidates.source[x] === sourceCodes.local) continue;
      if (tables.state[x - device.firstCandidate] !== stateCodes["in-use"]) continue;
      if (candidates.length[x] === own.length) continue;
      const other = destinationOf(network, x);
      if (containsPrefix(other, own)) {
        if (wider === null || other.length > candidates.length[wider]) wider = x;
      } else if (containsPrefix(own, other)) holds++;
    }
    return { within: wider === null ? null : routeText(network, wider), holds };
  }
}
