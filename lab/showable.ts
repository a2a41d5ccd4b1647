import type { Device, Link, Plan, StaticRoute } from "../core/plan/index.ts";
import { outsideRoutes } from "./outside.ts";
import { parted } from "./parts.ts";
import { type LabTunnel, tunnelsOf } from "./tunnels.ts";

/** The part of a plan that the kernel can show, and sentences about omissions. */
export interface Showable {
  readonly plan: Plan;
  readonly tunnels: readonly LabTunnel[];
  readonly leftOut: readonly string[];
  /** Maps element references of the plan to the built network: a device is all its VRFs. */
  refs(list: readonly string[]): string[];
}

type Port = Device["interfaces"][number];

/** Distances of learned routes where the plan gives none, by protocol: only their order counts. */
const learnedDistance: Readonly<Record<string, number>> = { bgp: 20, ospf: 110, isis: 115, rip: 120 };

/** The part of a plan that the kernel shows: devices with their interfaces, links, written and learned routes,
 * translation and policy; watches and virtual routers for the agents. Distances become metrics, the kernel's only
 * preference. */
export function showable(written: Plan): Showable {
  const { plan, refs, leftOut: notParted } = parted(written);
  const leftOut = [...notParted];
  const tunnels = tunnelsOf(written);
  const built = new Set(tunnels.map(({ end }) => end));
  const devices = plan.devices.map((device) => shownDevice(plan, device, built, leftOut));
  const links = plan.links.flatMap((link) => shownLink(link, devices, leftOut));
  for (const pair of plan.pairs)
    leftOut.push(`the pair ${pair.label ?? pair.id}: its members run independently`);
  const shown = { ...plan, devices, links, pairs: [] };
  return {
    plan: { ...shown, devices: devices.map((device) => withOutside(shown, device)) },
    tunnels,
    leftOut,
    refs,
  };
}

const withOutside = (plan: Plan, device: Device): Device => ({
  ...device,
  routes: [...device.routes, ...outsideRoutes(plan, device)],
});

function shownDevice(plan: Plan, device: Device, tunnels: ReadonlySet<string>, leftOut: string[]): Device {
  const name = device.label ?? device.id;
  const isShown = (port: Port) =>
    isPlain(device, port) || (port.kind === "tunnel" && tunnels.has(`${device.id}/${port.name}`));
  const gone = device.interfaces.filter((port) => !isShown(port)).map((port) => port.name);
  if (device.outline) leftOut.push(`${name}: not modeled`);
  else if (gone.length > 0) leftOut.push(`${name}: ${gone.join(", ")} (tunnels, bundles with their ports)`);
  const returnPath = plan.profiles.find(({ id }) => id === device.profile)?.returnPath;
  if (returnPath && returnPath !== "off") leftOut.push(`${name}: its return-path check`);
  for (const port of device.interfaces)
    if (port.gatewayFrom) leftOut.push(`${name}: the gateway assigned on ${port.name}`);
  return {
    ...device,
    interfaces: device.interfaces.filter(isShown).map((port) => withShownVirtuals(name, port, leftOut)),
    ...shownRoutes(device, name, gone, leftOut),
    sourceNat: device.sourceNat.filter(({ out }) => !gone.includes(out)),
    watches: device.watches.filter((watch) => !watchedOver(watch, gone)),
  };
}

/** Its routes in the order in which they are preferred, with those of its policy tables. */
function shownRoutes(
  device: Device,
  name: string,
  gone: readonly string[],
  leftOut: string[],
): Pick<Device, "routes" | "learned" | "policyTables"> {
  const own = device.interfaces.flatMap(({ virtual = [] }) => virtual.flatMap(({ addresses }) => addresses));
  const toItself = ({ via }: StaticRoute) => via !== undefined && own.includes(via);
  const all = [...device.routes, ...device.policyTables.flatMap(({ routes }) => routes)];
  const turning = all.filter((route) => stays(route, gone) && toItself(route));
  // A kernel keeps such a route when the address becomes its own (rule 4.4).
  if (turning.length > 0)
    leftOut.push(`${name}: ${turning.length} of its routes (through its own virtual address)`);
  const written = device.routes.filter((route) => stays(route, gone));
  const others = device.routes.length - written.length;
  if (others > 0) leftOut.push(`${name}: ${others} of its routes (through omitted or disabled parts)`);
  const learned = device.learned.filter((route) => stays(route, gone));
  if (learned.length > 0) leftOut.push(`${name}: withdrawal of learned routes with their neighbors`);
  const routes = [...written.filter((route) => !toItself(route)).map(asMetric), ...learned.map(asWritten)];
  const kept = oncePerMetric(routes);
  if (kept.length < routes.length) leftOut.push(`${name}: all but the first of equal-cost routes`);
  return {
    routes: kept,
    learned: [],
    policyTables: device.policyTables.map((table) => ({
      ...table,
      routes: table.routes.filter((route) => stays(route, gone) && !toItself(route)),
    })),
  };
}

/** Members of a bundle have no addresses: without the bundle they lead nowhere. */
function isPlain(device: Device, port: Port): boolean {
  const parent = device.interfaces.find(({ name }) => name === port.parent);
  const built = port.kind === "tunnel" || port.kind === "bundle" || parent?.kind === "bundle";
  const member = device.interfaces.some(({ members }) => members?.includes(port.name));
  return !built && !member && !device.outline;
}

function withShownVirtuals(name: string, port: Port, leftOut: string[]): Port {
  const own = new Set(port.addresses.map((address) => address.split("/")[0]));
  const shown = (port.virtual ?? []).filter(
    (virtual) => !virtual.addresses.some((address) => address.includes(":") || own.has(address)),
  );
  const count = (port.virtual ?? []).length - shown.length;
  if (count > 0)
    leftOut.push(`${name}: ${count} virtual routers of ${port.name} (of IPv6, or owners of their address)`);
  return port.virtual ? { ...port, virtual: shown } : port;
}

/** Whether a watch looks through an interface that is not there. */
const watchedOver = (watch: Device["watches"][number], gone: readonly string[]) =>
  (watch.kind === "probe" && gone.includes(watch.out ?? "")) ||
  ((watch.kind === "bfd" || watch.kind === "interface") && gone.includes(watch.interface));

const stays = (route: { viaFrom?: string; out?: string; enabled?: boolean }, gone: readonly string[]) =>
  route.enabled !== false && !route.viaFrom && !gone.includes(route.out ?? "");

const asMetric = ({ distance, resolve: _resolve, ...route }: StaticRoute): StaticRoute => ({
  ...route,
  metric: order(distance ?? 1, route.metric),
});

const asWritten = ({ to, via, out, protocol, distance, metric }: Device["learned"][number]): StaticRoute => ({
  to,
  ...(via ? { via } : {}),
  ...(out ? { out } : {}),
  metric: order(distance ?? learnedDistance[protocol] ?? 200, metric),
});

/** Written routes of the usual distance keep their metric; whatever is farther comes after them. */
const order = (distance: number, metric: number | undefined) =>
  distance <= 1 ? metric : Math.min(distance * 100_000 + Math.min(metric ?? 0, 99_999), 4_000_000_000);

function oncePerMetric<R extends { to: string; metric?: number }>(routes: readonly R[]): R[] {
  const seen = new Set<string>();
  return routes.filter(({ to, metric }) => {
    const key = `${to} ${metric}`;
    return !seen.has(key) && seen.add(key);
  });
}

function shownLink(link: Link, devices: readonly Device[], leftOut: string[]): Link[] {
  const ends = link.ends.filter((end) => {
    const slash = end.indexOf("/");
    const device = devices.find(({ id }) => id === end.slice(0, slash));
    return device?.interfaces.some(({ name }) => name === end.slice(slash + 1));
  });
  // A line that only carries others has no end, and stays for what its failure does.
  if (ends.length === 0 && link.ends.length > 0) leftOut.push(`the link ${link.label ?? link.id}`);
  return ends.length > 0 || link.ends.length === 0 ? [{ ...link, ends }] : [];
}
