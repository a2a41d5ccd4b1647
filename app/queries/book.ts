import type { Flow } from "../../core/plan/index.ts";
import { type DeviceWatch, type RouteReport, tableReport, watchesOf } from "../../core/reports/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import { type Board, sweptBoard } from "./board.ts";
import { type FindingSet, findingSet } from "./findings.ts";

/** What a plan larger than this has no board and no findings in its book: they take longer than a request may. */
const MAX_DEVICES = 200;
const MAX_FLOWS = 300;

export interface BookDevice {
  id: string;
  label: string;
  role: string;
  site: string;
  profile: string;
  interfaces: {
    name: string;
    kind: string;
    addresses: string[];
    note: string;
    others: string[];
    up: boolean;
  }[];
  tables: { name: string; routes: (RouteReport & { note: string })[] }[];
  watches: DeviceWatch[];
}

/** All that the printed book of a network says. */
export interface Book {
  name: string;
  description: string;
  devices: BookDevice[];
  flows: readonly Flow[];
  /** Null where the plan is too large. */
  findings: FindingSet | null;
  board: Board | null;
}

/** The network as a book: a page for each device, the flows under every failure, the findings. */
export function bookOf(model: Scenario): Book {
  const { plan } = model;
  const small = plan.devices.length <= MAX_DEVICES;
  return {
    name: plan.name,
    description: plan.description ?? "",
    devices: plan.devices.map((_, d) => deviceOf(model, d)),
    flows: plan.flows,
    findings: small ? findingSet(model, [], false) : null,
    board:
      small && plan.flows.length > 0 && plan.flows.length <= MAX_FLOWS ? sweptBoard(model, model, 1) : null,
  };
}

function deviceOf(model: Scenario, d: number): BookDevice {
  const { network, plan, world } = model;
  const device = plan.devices[d];
  const names = new Map(plan.devices.map(({ id, label }) => [id, label ?? id]));
  const linkOf = new Map(plan.links.flatMap((link) => link.ends.map((end) => [end, link] as const)));
  const reports = network.devices[d].vrfs.map((vrf) => tableReport(world, d, vrf));
  const notes = new Map(device.routes.map((route) => [`${route.to} ${route.via ?? ""}`, route.note ?? ""]));
  const withNotes = (routes: readonly RouteReport[]) =>
    routes.map((route) => ({
      ...route,
      note: route.source === "static" ? (notes.get(`${route.to} ${route.via ?? ""}`) ?? "") : "",
    }));
  return {
    id: device.id,
    label: device.label ?? device.id,
    role: device.role,
    site: device.site ?? "",
    profile: device.profile ?? "",
    interfaces: device.interfaces.map(({ name, kind = "ethernet", addresses, note = "" }) => {
      const end = `${device.id}/${name}`;
      const others = (linkOf.get(end)?.ends ?? []).filter((other) => other !== end);
      const index = network.interfaceIndex.get(end);
      return {
        name,
        kind,
        addresses: [...addresses],
        note,
        others: others.map((other) => names.get(other.slice(0, other.indexOf("/"))) ?? other),
        up: index !== undefined && world.state.interfaceUp[index] === 1,
      };
    }),
    tables: reports.flatMap(({ vrf, routes, policyTables = [] }) => [
      { name: vrf, routes: withNotes(routes) },
      ...policyTables.map((table) => ({
        name: `${vrf}, policy table ${table.name}`,
        routes: withNotes(table.routes),
      })),
    ]),
    watches: watchesOf(world, d),
  };
}
