import {
  type Address,
  comparePrefix,
  containsAddress,
  containsPrefix,
  formatAddress,
  type Prefix,
  parseAddress,
  parsePrefix,
  samePrefix,
} from "../../core/address/index.ts";
import { destinationOf, viaOf } from "../../core/network/index.ts";
import { candidatesIn, type RouteReport, routeReport } from "../../core/reports/index.ts";
import { nextHopsOf, routeStates } from "../../core/routes/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import type { World } from "../../core/walk/index.ts";
import type { Looked } from "../search/looked.ts";
import type { RouteFilter } from "../search/route-filter.ts";
import { conditionsOf } from "./conditions.ts";

export interface DeviceRow {
  id: string;
  label: string;
  role: string;
  site: string;
  up: boolean;
  interfaces: number;
  interfacesDown: number;
  inUse: number;
  standby: number;
  unusable: number;
  disabled: number;
}

/** One route of one device. */
export interface NetworkRoute extends RouteReport {
  device: string;
  /** The VRF, if not the main one, or the policy table. */
  table: string;
  /** The interface that it leaves by, if it names only a next hop that resolves. */
  leavesBy: string | null;
  /** Whether it is the longest match of its device for the address in the filter. */
  winner: boolean;
}

export interface RoutesAnswer {
  devices: DeviceRow[];
  /** Those that the filter lets through, in the order asked for; not more than can be shown at once. */
  routes: NetworkRoute[];
  /** How many the filter lets through. */
  found: number;
  /** How many there are, by state, whatever the filter. */
  totals: Record<string, number>;
  /** The same before the draft; null without a draft. */
  totalsApproved: Record<string, number> | null;
  sources: string[];
}

/** Routes that are handed to the page at once; a narrower filter finds the rest. */
const MAX_ROUTES = 3000;

interface Entry {
  device: number;
  /** The candidate's number, network-wide. */
  candidate: number;
  table: string;
  report: RouteReport;
  /** Its place among all, less specific destinations first. */
  place: number;
}

/** Every route of every device, filtered, sorted and counted; and every device with its routes by state. */
export function routesAnswer(
  model: Scenario,
  approved: Scenario,
  looked: Looked,
  filter: RouteFilter,
): RoutesAnswer {
  const { world } = conditionsOf(model, looked).scenario;
  const entries = entriesOf(world);
  const kept = entries.filter(keeps(world, filter));
  sortEntries(world, kept, filter);
  const { network } = world.state;
  const winners = winnersOf(world, kept, filter.text);
  const before = approved === model ? null : conditionsOf(approved, looked).scenario.world;
  return {
    devices: deviceRows(model, world),
    routes: kept.slice(0, MAX_ROUTES).map((entry) => ({
      ...entry.report,
      device: network.devices[entry.device].id,
      table: entry.table,
      leavesBy: leavesBy(world, entry),
      winner: winners.has(entry),
    })),
    found: kept.length,
    totals: totalsOf(entries),
    totalsApproved: before && totalsOf(entriesOf(before)),
    sources: [...new Set(entries.map(({ report }) => report.source))].sort(),
  };
}

/** The interface that a usable route leaves by in the end. */
function leavesBy(world: World, { device, candidate, report }: Entry): string | null {
  if (report.out || (report.state !== "in-use" && report.state !== "standby")) return null;
  const { network } = world.state;
  const hop = nextHopsOf(network, world.tablesOf(device), candidate)[0];
  return hop ? network.interfaces.names[hop.out] : null;
}

/** The active routes with the longest match for an address, of each device and table; none for other filters. */
function winnersOf(world: World, entries: readonly Entry[], text: string): ReadonlySet<Entry> {
  const address = parseAddress(text);
  if (!address) return new Set();
  const { network } = world.state;
  const lengthOf = ({ candidate }: Entry) => destinationOf(network, candidate).length;
  const best = new Map<string, Entry[]>();
  for (const entry of entries) {
    if (entry.report.state !== "in-use") continue;
    if (!containsAddress(destinationOf(network, entry.candidate), address)) continue;
    const key = `${entry.device} ${entry.table}`;
    const [first] = best.get(key) ?? [];
    if (!first || lengthOf(entry) > lengthOf(first)) best.set(key, [entry]);
    else if (lengthOf(entry) === lengthOf(first)) best.get(key)?.push(entry);
  }
  return new Set([...best.values()].flat());
}

function entriesOf(world: World): Entry[] {
  const { network } = world.state;
  const list: Entry[] = [];
  for (const record of network.devices) {
    const tables = [
      ...record.vrfs.map((name, number) => ({ number, name: name === "main" ? "" : name })),
      ...record.policyTables.map((own) => ({ number: own.table, name: own.name })),
    ];
    for (const { number, name } of tables)
      for (const candidate of candidatesIn(world, record.index, number))
        list.push({
          device: record.index,
          candidate,
          table: name,
          report: routeReport(world, candidate),
          place: list.length,
        });
  }
  return list;
}

/** How many there are in each state. */
function totalsOf(entries: readonly Entry[]): Record<string, number> {
  const totals: Record<string, number> = {};
  for (const { report } of entries) totals[report.state] = (totals[report.state] ?? 0) + 1;
  return totals;
}

/** Whether an entry passes the filter. */
function keeps(world: World, filter: RouteFilter): (entry: Entry) => boolean {
  const { network } = world.state;
  const fits = textFilter(world, filter);
  return (entry) => {
    const { report, device } = entry;
    if (filter.device !== "" && network.devices[device].id !== filter.device) return false;
    if (filter.states.length > 0 && !filter.states.includes(report.state)) return false;
    if (filter.sources.length > 0 && !filter.sources.includes(report.source)) return false;
    return fits(entry);
  };
}

/** The states as they are written in the filter. */
const stateWords: Readonly<Record<string, RouteReport["state"]>> = {
  active: "in-use",
  standby: "standby",
  unusable: "unusable",
  disabled: "disabled",
};

/** The typed words must all match: states and sources by name, the rest as text. */
function textFilter(world: World, { text, relation }: RouteFilter): (entry: Entry) => boolean {
  const fits = text.split(/\s+/).map((word) => wordFilter(world, word, relation));
  return (entry) => fits.every((passes) => passes(entry));
}

function wordFilter(
  world: World,
  text: string,
  relation: RouteFilter["relation"],
): (entry: Entry) => boolean {
  if (text === "") return () => true;
  const state = Object.hasOwn(stateWords, text.toLowerCase()) ? stateWords[text.toLowerCase()] : null;
  if (state) return ({ report }) => report.state === state;
  const { network } = world.state;
  const address = parseAddress(text);
  if (address) return (entry) => speaksOf(world, entry, address);
  const prefix = parsePrefix(text);
  const stands: Record<RouteFilter["relation"], (own: Prefix, asked: Prefix) => boolean> = {
    exact: samePrefix,
    covering: containsPrefix,
    covered: (own, asked) => containsPrefix(asked, own),
  };
  if (prefix) return ({ candidate }) => stands[relation](destinationOf(network, candidate), prefix);
  const wanted = text.toLowerCase();
  return ({ device, report, table }) => {
    const { id, label } = network.devices[device];
    const { out, to, source } = report;
    if (source === wanted) return true;
    return [id, label, table, out ?? "", to].some((part) => part.toLowerCase().includes(wanted));
  };
}

/** Whether a route would be looked at for an address, or has it as its next hop. */
function speaksOf(world: World, { candidate }: Entry, address: Address): boolean {
  const { network } = world.state;
  if (containsAddress(destinationOf(network, candidate), address)) return true;
  const via = viaOf(network, candidate);
  return via !== null && formatAddress(via) === formatAddress(address);
}

function sortEntries(world: World, entries: Entry[], { sort, descending }: RouteFilter) {
  const { network } = world.state;
  const text = (of: (entry: Entry) => string) => (a: Entry, b: Entry) => of(a).localeCompare(of(b));
  const number = (of: (entry: Entry) => number) => (a: Entry, b: Entry) => of(a) - of(b);
  const orders: Record<RouteFilter["sort"], (a: Entry, b: Entry) => number> = {
    to: (a, b) => comparePrefix(destinationOf(network, a.candidate), destinationOf(network, b.candidate)),
    device: text(({ device }) => network.devices[device].label),
    table: text(({ table }) => table),
    state: number(({ report }) => routeStates.indexOf(report.state)),
    source: text(({ report }) => report.source),
    via: text(({ report }) => report.via ?? ""),
    out: text(({ report }) => report.out ?? ""),
    distance: number(({ report }) => report.distance ?? -1),
    metric: number(({ report }) => report.metric),
    because: text(({ report }) => report.reason?.text ?? ""),
  };
  const turn = descending ? -1 : 1;
  entries.sort((a, b) => turn * orders[sort](a, b) || a.place - b.place);
}

/** Every device with its written and learned routes by state. */
function deviceRows(model: Scenario, world: World): DeviceRow[] {
  const { network } = world.state;
  return network.devices.map((record) => {
    const counts: Record<string, number> = {};
    for (const table of record.vrfs.keys())
      for (const c of candidatesIn(world, record.index, table)) {
        const { state } = routeReport(world, c);
        counts[state] = (counts[state] ?? 0) + 1;
      }
    let down = 0;
    for (let i = record.firstInterface; i < record.endInterface; i++) if (!world.state.interfaceUp[i]) down++;
    return {
      id: record.id,
      label: record.label,
      role: record.role,
      site: model.plan.devices[record.index].site ?? "",
      up: world.state.deviceAlive[record.index] === 1,
      interfaces: record.endInterface - record.firstInterface,
      interfacesDown: down,
      inUse: counts["in-use"] ?? 0,
      standby: counts.standby ?? 0,
      unusable: counts.unusable ?? 0,
      disabled: counts.disabled ?? 0,
    };
  });
}
