import type { Device, Link, Plan } from "../core/plan/index.ts";

/** A plan as the kernel can show it, and in sentences what of it that leaves out. */
export interface Showable {
  readonly plan: Plan;
  readonly leftOut: readonly string[];
}

/** Distances of learned routes where the plan gives none, by protocol: only their order counts. */
const learnedDistance: Readonly<Record<string, number>> = { bgp: 20, ospf: 110, isis: 115, rip: 120 };

/**
 * What the kernel shows of a plan: routers and hosts with their interfaces, links, written and learned routes.
 * Distances become metrics, for the kernel has nothing else to prefer a route by.
 */
export function showable(plan: Plan): Showable {
  const leftOut: string[] = [];
  const devices = plan.devices.map((device) => shownDevice(plan, device, leftOut));
  const links = plan.links.flatMap((link) => shownLink(link, devices, leftOut));
  if (plan.devices.some(({ watches }) => watches.length > 0)) {
    leftOut.push("watches: no route is taken out because a watch says so");
  }
  return { plan: { ...plan, devices, links }, leftOut };
}

function shownDevice(plan: Plan, device: Device, leftOut: string[]): Device {
  const name = device.label ?? device.id;
  const here = (port: Device["interfaces"][number]) =>
    port.kind !== "tunnel" && (port.vrf ?? "main") === "main" && !device.outline;
  const gone = device.interfaces.filter((port) => !here(port)).map((port) => port.name);
  if (device.outline) leftOut.push(`${name}: nobody told what it is`);
  else if (gone.length > 0) leftOut.push(`${name}: ${gone.join(", ")} (tunnels and VRFs of their own)`);
  if (device.sourceNat.length > 0) leftOut.push(`${name}: its source translation`);
  if (device.role === "firewall") leftOut.push(`${name}: its zones and policy; it forwards everything`);
  const written = device.routes.filter((route) => stays(route, gone));
  const others = device.routes.length - written.length;
  if (others > 0) leftOut.push(`${name}: ${others} of its routes (other VRFs, tunnels, switched off)`);
  const learned = device.learned
    .filter((route) => stays(route, gone))
    .map(({ to, via, out, protocol, distance, metric }) => ({
      to,
      ...(via ? { via } : {}),
      ...(out ? { out } : {}),
      metric: order(distance ?? learnedDistance[protocol] ?? 200, metric),
    }));
  const routes = [
    ...written.map(({ distance, resolve: _resolve, ...route }) => ({
      ...route,
      metric: order(distance ?? 1, route.metric),
    })),
    ...learned,
  ];
  const kept = oncePerMetric(routes);
  if (kept.length < routes.length) leftOut.push(`${name}: of several equal routes all but the first`);
  const returnPath = plan.profiles.find(({ id }) => id === device.profile)?.returnPath;
  if (returnPath && returnPath !== "off") leftOut.push(`${name}: its return-path check`);
  return {
    ...device,
    interfaces: device.interfaces.filter(here),
    routes: kept,
    learned: [],
    sourceNat: [],
    policyTables: device.policyTables.map((table) => ({
      ...table,
      routes: table.routes.filter((route) => stays(route, gone)),
    })),
    watches: [],
  };
}

const stays = (
  route: { vrf?: string; toVrf?: string; viaFrom?: string; out?: string; enabled?: boolean },
  gone: readonly string[],
) =>
  route.enabled !== false &&
  (route.vrf ?? "main") === "main" &&
  !route.toVrf &&
  !route.viaFrom &&
  !gone.includes(route.out ?? "");

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
  if (ends.length === 0) leftOut.push(`the link ${link.label ?? link.id}`);
  return ends.length > 0 ? [{ ...link, ends }] : [];
}
