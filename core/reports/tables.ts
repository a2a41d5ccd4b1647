import {
  type Address,
  containsAddress,
  containsPrefix,
  exactCover,
  formatAddress,
  formatPrefix,
  type Prefix,
  samePrefix,
} from "../address/index.ts";
import { actionCodes, destinationOf, formatElement, type Network, viaOf } from "../network/index.ts";
import { byPreference, type DeviceTables, nextHopsOf, routeStates, stateCodes } from "../routes/index.ts";
import type { World } from "../walk/index.ts";
import { reasonFor, sourceText } from "../words/index.ts";
import type { LookupReport, PrefixLookupReport, RouteReport, TableReport } from "./schemas.ts";

/** The table of a device's VRF: every candidate with its state and reason (rule 5.2). */
export function tableReport(world: World, device: number, vrf: string): TableReport {
  const { network } = world.state;
  const record = network.devices[device];
  const number = record.vrfs.indexOf(vrf);
  const own = record.policyTables.filter((table) => table.vrf === number);
  const report: TableReport = {
    device: record.id,
    vrf,
    failed: world.state.failed.map((element) => formatElement(network, element)),
    routes: candidatesIn(world, device, number).map((c) => routeReport(world, c)),
  };
  if (own.length) {
    report.policyTables = own.map((table) => ({
      name: table.name,
      routes: candidatesIn(world, device, table.table).map((c) => routeReport(world, c)),
    }));
  }
  return report;
}

/** Every candidate whose destination holds the address, longest first (rule 5.3). */
export function lookupReport(world: World, device: number, vrf: string, to: Address): LookupReport {
  const { network } = world.state;
  const record = network.devices[device];
  const matching = candidatesIn(world, device, record.vrfs.indexOf(vrf)).filter((c) =>
    containsAddress(destinationOf(network, c), to),
  );
  // A stable sort: candidates of one destination keep their order of preference.
  matching.sort((a, b) => network.candidates.length[b] - network.candidates.length[a]);
  return { device: record.id, to: formatAddress(to), matches: matching.map((c) => routeReport(world, c)) };
}

/** Every candidate whose destination holds a whole prefix, longest first, and the active routes inside it. */
export function prefixLookupReport(
  world: World,
  device: number,
  vrf: string,
  to: Prefix,
): PrefixLookupReport {
  const { network } = world.state;
  const record = network.devices[device];
  const tables = world.tablesOf(device);
  const all = candidatesIn(world, device, record.vrfs.indexOf(vrf));
  const { length } = network.candidates;
  const holding = all
    .filter((c) => containsPrefix(destinationOf(network, c), to))
    .sort((a, b) => length[b] - length[a]);
  const active = (c: number) => tables.state[c - tables.device.firstCandidate] === stateCodes["in-use"];
  const inside = all
    .filter((c) => {
      const own = destinationOf(network, c);
      return active(c) && containsPrefix(to, own) && !samePrefix(to, own);
    })
    .sort((a, b) => length[a] - length[b]);
  /** Whether an address of a prefix is left that no longer active route takes. */
  const isSeen = (prefix: Prefix) => {
    const longer = inside
      .map((c) => destinationOf(network, c))
      .filter((own) => own.length > prefix.length && containsPrefix(prefix, own));
    const [whole] = exactCover(longer);
    return !whole || !samePrefix(whole, prefix);
  };
  const cover = holding.filter(active).filter((c, _, list) => length[c] === length[list[0]]);
  const ways = new Set<string>();
  if (isSeen(to)) ways.add(targetsOf(world, cover));
  for (const c of inside) {
    const own = destinationOf(network, c);
    if (!isSeen(own)) continue;
    ways.add(
      targetsOf(
        world,
        inside.filter((other) => samePrefix(destinationOf(network, other), own)),
      ),
    );
  }
  return {
    device: record.id,
    to: formatPrefix(to),
    matches: holding.map((c) => routeReport(world, c)),
    inside: inside.map((c) => routeReport(world, c)),
    split: ways.size > 1,
  };
}

/** Where active candidates of one destination lead, as comparable text; "" for none. */
function targetsOf(world: World, active: readonly number[]): string {
  const { network } = world.state;
  const { action, toVrf, device } = network.candidates;
  return active
    .flatMap((c) =>
      action[c] === actionCodes.forward
        ? nextHopsOf(network, world.tablesOf(device[c]), c).map(
            ({ out, address }) => `${out} ${address ? formatAddress(address) : "attached"}`,
          )
        : [`${action[c]} ${toVrf[c]}`],
    )
    .sort()
    .join(", ");
}

/** Candidates of one table by destination, and within it in the order of preference. */
export function candidatesIn(world: World, device: number, table: number): number[] {
  const { network } = world.state;
  const { groups } = network;
  const record = network.devices[device];
  const tables = world.tablesOf(device);
  const list: number[] = [];
  for (let g = record.firstGroup; g < record.endGroup; g++) {
    if (groups.table[g] === table) for (const c of inOrder(network, tables, g)) list.push(c);
  }
  return list;
}

/** Candidates of one destination (a group): by state, and within it in the order of preference. */
export function inOrder(network: Network, tables: DeviceTables, group: number): number[] {
  const { groups } = network;
  const first = tables.device.firstCandidate;
  const preference = byPreference(network, tables.device);
  const members = Array.from(
    { length: groups.start[group + 1] - groups.start[group] },
    (_, i) => groups.start[group] + i,
  );
  return members.sort((a, b) => tables.state[a - first] - tables.state[b - first] || preference(a, b));
}

export function routeReport(world: World, c: number): RouteReport {
  const { network } = world.state;
  const { candidates, interfaces } = network;
  const tables = world.tablesOf(candidates.device[c]);
  const via = viaOf(network, c);
  const report: RouteReport = {
    to: formatPrefix(destinationOf(network, c)),
    source: sourceText(network, c),
    via: via ? formatAddress(via) : null,
    out: candidates.out[c] >= 0 ? interfaces.names[candidates.out[c]] : null,
    distance: candidates.distance[c] < 0 ? null : candidates.distance[c],
    metric: candidates.metric[c],
    state: routeStates[tables.state[c - tables.device.firstCandidate]],
    reason: reasonFor(tables, world.state, c),
  };
  if (candidates.action[c] === actionCodes.drop) report.discard = "drop";
  if (candidates.action[c] === actionCodes.reject) report.discard = "reject";
  if (candidates.action[c] === actionCodes.vrf) report.toVrf = tables.device.vrfs[candidates.toVrf[c]];
  if (candidates.watch[c] >= 0) report.watch = network.watches[candidates.watch[c]].watch.id;
  return report;
}
