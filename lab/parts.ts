import { type Device, type Plan, parseElement, type StaticRoute } from "../core/plan/index.ts";

/** Stands between a device's id, which has no such sign, and one of its VRFs. */
const SIGN = "~";

const MAIN = "main";

/** The device that a part belongs to. */
export const wholeOf = (id: string) => id.split(SIGN)[0];

/** Whether a device is a VRF of another one. */
export const isPart = (id: string) => id.includes(SIGN);

/** The name of a device's VRF as its own device; the main VRF is the device itself. */
export const partOf = (device: string, vrf: string | undefined) =>
  vrf === undefined || vrf === MAIN ? device : `${device}${SIGN}${vrf}`;

/** A plan in which every VRF except the main one is a separate device. */
export interface Parted {
  readonly plan: Plan;
  /** Sentences about omitted parts. */
  readonly leftOut: readonly string[];
  /** The same elements as references into that plan. */
  refs(list: readonly string[]): string[];
}

/** Takes the VRFs of a plan apart: nothing passes from one to another but by routes that lead there, which are left out. */
export function parted(plan: Plan): Parted {
  const leftOut: string[] = [];
  const vrfOf = new Map<string, string>();
  for (const device of plan.devices)
    for (const port of device.interfaces) vrfOf.set(`${device.id}/${port.name}`, port.vrf ?? MAIN);
  const ownerOf = (end: string) => partOf(end.slice(0, end.indexOf("/")), vrfOf.get(end));
  const ends = (list: readonly string[]) =>
    list.map((end) => `${ownerOf(end)}${end.slice(end.indexOf("/"))}`);
  const devices = plan.devices.flatMap((device) => partsOf(device, leftOut));
  const places = new Map(
    devices.flatMap(({ id, watches }) => watches.map((watch) => [`${wholeOf(id)}/${watch.id}`, id] as const)),
  );
  const isTunnel = (end: string) =>
    plan.devices
      .find(({ id }) => id === end.slice(0, end.indexOf("/")))
      ?.interfaces.find(({ name }) => name === end.slice(end.indexOf("/") + 1))?.kind === "tunnel";
  const refs = (list: readonly string[]) =>
    list.flatMap((ref): string[] => {
      const element = parseElement(ref);
      // A link between tunnels consists of its ends: failing it fails both.
      const link = element?.kind === "link" ? plan.links.find(({ id }) => id === element.id) : undefined;
      if (link?.ends.length && link.ends.every(isTunnel))
        return ends(link.ends).map((end) => `interface:${end}`);
      // A direction leads to whichever part of the device the link ends in.
      if (element?.kind === "direction") {
        const joined = plan.links.find(({ id }) => id === element.link)?.ends ?? [];
        const there = ends(joined.filter((end) => end.startsWith(`${element.device}/`)));
        return [...new Set(there.map((end) => `link:${element.link}@${end.slice(0, end.indexOf("/"))}`))];
      }
      if (element?.kind === "device")
        return devices.flatMap(({ id }) => (wholeOf(id) === element.id ? [`device:${id}`] : []));
      if (element?.kind === "interface")
        return ends([`${element.device}/${element.name}`]).map((end) => `interface:${end}`);
      if (element?.kind === "watch")
        return [`watch:${places.get(`${element.device}/${element.id}`) ?? element.device}/${element.id}`];
      return [ref];
    });
  return {
    plan: {
      ...plan,
      devices,
      links: plan.links
        .filter((link) => link.ends.length === 0 || !link.ends.every(isTunnel))
        .map((link) => ({ ...link, ends: ends(link.ends) })),
      risks: plan.risks.map((risk) => ({ ...risk, of: refs(risk.of) })),
      gateways: plan.gateways.map((gateway) => ({ ...gateway, at: ends([gateway.at])[0] })),
    },
    leftOut,
    refs,
  };
}

function partsOf(device: Device, leftOut: string[]): Device[] {
  const named = new Set(
    [...device.interfaces, ...device.routes, ...device.learned].map(({ vrf }) => vrf ?? MAIN),
  );
  named.delete(MAIN);
  if (named.size === 0) return [device];
  const name = device.label ?? device.id;
  const leaks = device.routes.filter(({ toVrf }) => toVrf !== undefined);
  if (leaks.length > 0) leftOut.push(`${name}: ${leaks.length} routes from one VRF into another`);
  const parts = new Map<string, Set<string>>();
  for (const { vrf, virtual } of device.interfaces)
    for (const { sync } of virtual ?? [])
      if (sync !== undefined) parts.set(sync, (parts.get(sync) ?? new Set()).add(vrf ?? MAIN));
  for (const [sync, vrfs] of parts)
    if (vrfs.size > 1) leftOut.push(`${name}: that the sync group ${sync} holds across VRFs`);
  return [MAIN, ...named].map((vrf) => partWith(device, vrf, leftOut));
}

function partWith(device: Device, vrf: string, leftOut: string[]): Device {
  const isOwn = (one: { vrf?: string }) => (one.vrf ?? MAIN) === vrf;
  const ports = new Set(device.interfaces.filter(isOwn).map(({ name }) => name));
  const watches = watchesIn(device, vrf, ports);
  const seen = new Set(watches.map(({ id }) => id));
  const name = `${device.label ?? device.id}${vrf === MAIN ? "" : `, VRF ${vrf}`}`;
  const routes = device.routes.filter((route) => isOwn(route) && route.toVrf === undefined);
  const kept = routes.filter(({ watch }) => watch === undefined || seen.has(watch));
  if (kept.length < routes.length)
    leftOut.push(`${name}: ${routes.length - kept.length} routes with watches of another VRF`);
  const inMain = <T extends { vrf?: string }>({ vrf: _vrf, ...rest }: T) => rest;
  return {
    ...device,
    id: partOf(device.id, vrf),
    label: name,
    interfaces: device.interfaces.filter(isOwn).map((port) => ({
      ...inMain(port),
      virtual: port.virtual?.map((one) => ({
        ...one,
        track: one.track.filter((track) => ports.has(track.interface ?? "") || seen.has(track.watch ?? "")),
      })),
    })),
    routes: kept.map((route): StaticRoute => inMain(route)),
    learned: device.learned.filter(isOwn).map(inMain),
    sourceNat: device.sourceNat.filter(({ out }) => ports.has(out)),
    policyTables: device.policyTables.filter(({ match }) => {
      const [first] = match.in ?? [];
      return first === undefined ? vrf === MAIN : ports.has(first);
    }),
    watches,
  };
}

/** The watches that look from a VRF; a group is where all its members are. */
function watchesIn({ watches }: Device, vrf: string, ports: ReadonlySet<string>): Device["watches"] {
  const own = new Set<string>();
  const isOwn = (watch: Device["watches"][number]): boolean => {
    switch (watch.kind) {
      case "probe":
        return watch.out === undefined ? vrf === MAIN : ports.has(watch.out);
      case "route":
        return (watch.vrf ?? MAIN) === vrf;
      case "group":
        return watch.of.every((id) => own.has(id));
      default:
        return ports.has(watch.interface);
    }
  };
  // Groups may hold groups: whoever is found lets more be found.
  for (let size = -1; size !== own.size; ) {
    size = own.size;
    for (const watch of watches) if (isOwn(watch)) own.add(watch.id);
  }
  return watches
    .filter(({ id }) => own.has(id))
    .map((watch) => {
      if (watch.kind !== "route") return watch;
      const { vrf: _vrf, ...rest } = watch;
      return rest;
    });
}
