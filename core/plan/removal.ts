import { parseZonedAddress } from "../address/index.ts";
import type { Device, Interface } from "./device.ts";
import { differencePlans } from "./difference.ts";
import type { Change, Edit } from "./edit.ts";
import { parseElement, parseEnd } from "./elements.ts";
import type { Flow, Gateway, Pair, Plan } from "./plan.ts";
import type { StaticRoute } from "./route.ts";
import type { Track } from "./virtual.ts";
import type { Watch } from "./watch.ts";

/**
 * The edit that takes a device, an interface, a link or a gateway out of a plan with all that cannot stand without it:
 * links, gateways, flows, routes, watches, and the steps of outages that name it.
 */
export function removalOf(
  plan: Plan,
  what:
    | { device: string }
    | { interface: string }
    | { link: string }
    | { gateway: string }
    | { watch: string; of: string },
): Edit | null {
  if ("device" in what) return deviceRemoval(plan, what.device);
  if ("gateway" in what) return gatewayRemoval(plan, what.gateway);
  if ("watch" in what) return watchRemoval(plan, what.of, what.watch);
  return "link" in what ? linkRemoval(plan, what.link) : interfaceRemoval(plan, what.interface);
}

function deviceRemoval(plan: Plan, id: string): Edit | null {
  const device = plan.devices.find((entry) => entry.id === id);
  if (!device) return null;
  const of = (end: string) => parseEnd(end)?.device === id;
  const fates = lostFates(plan, {
    link: (link) => isLost(plan, link, of),
    ref: (ref) => {
      const element = parseElement(ref);
      if (element?.kind === "site") return lastAt(plan, element.id, id);
      if (element?.kind === "direction") return element.device === id;
      return element?.kind === "device" ? element.id === id : ref.startsWith(`interface:${id}/`);
    },
    member: id,
  });
  const changes: Change[] = [
    ...plan.links.flatMap((link) => withoutEnds(link, of)),
    ...gatewaysWithout(plan, (gateway) => of(gateway.at)),
    ...flowsWithout(plan, {
      flow: (flow) => flow.from === id || of(flow.from) || flow.to === id,
      gateway: (gateway) => of(gateway.at),
      device: id,
    }),
    ...outagesWithout(plan, (ref) => fates.gone(ref) || ref.startsWith(`watch:${id}/`)),
    ...fatesWithout(plan, fates),
    ...plan.dismissals.filter((entry) => entry.device === id).map((before) => gone("dismissals", before)),
    gone("devices", device),
  ];
  return { label: `Remove ${device.label ?? id}${besides(changes)}`, changes };
}

function linkRemoval(plan: Plan, id: string): Edit | null {
  const link = plan.links.find((entry) => entry.id === id);
  if (!link) return null;
  const fates = lostFates(plan, { link: (other) => other === id, ref: () => false });
  const changes = [...outagesWithout(plan, fates.gone), ...fatesWithout(plan, fates), gone("links", link)];
  return { label: `Remove the link ${link.label ?? id}`, changes };
}

function gatewayRemoval(plan: Plan, id: string): Edit | null {
  const gateway = plan.gateways.find((entry) => entry.id === id);
  if (!gateway) return null;
  const changes = [
    gone("gateways", gateway),
    ...flowsWithout(plan, { flow: () => false, gateway: (entry) => entry.id === id }),
  ];
  return { label: `Remove the gateway ${gateway.label ?? id}`, changes };
}

/** A watch, and everything that is bound to it, detached: routes stay, and are withdrawn by it no more. */
function watchRemoval(plan: Plan, id: string, watch: string): Edit | null {
  const device = plan.devices.find((entry) => entry.id === id);
  if (!device?.watches.some((entry) => entry.id === watch)) return null;
  const { rest, lost } = withoutInterfaces(device, new Set(), new Set([watch]));
  const isGone = (ref: string) => {
    const element = parseElement(ref);
    return element?.kind === "watch" && element.device === id && lost.has(element.id);
  };
  const fates = lostFates(plan, {
    link: () => false,
    ref: isGone,
    monitored: (pair, name) => pair.members.includes(id) && lost.has(name),
  });
  const bound = [...device.routes, ...device.policyTables.flatMap(({ routes }) => routes)].filter(
    (route) => route.watch !== undefined && lost.has(route.watch),
  );
  const changes = [
    ...outagesWithout(plan, fates.gone),
    ...fatesWithout(plan, fates),
    ...differencePlans({ ...plan, devices: [device] }, { ...plan, devices: [rest] }),
  ];
  const detached = bound.length === 1 ? "a route" : `${bound.length} routes`;
  return {
    label: `Remove the watch ${watch} of ${device.label ?? id}${bound.length > 0 ? ` and detach ${detached}` : ""}`,
    changes,
  };
}

function interfaceRemoval(plan: Plan, end: string): Edit | null {
  const parsed = parseEnd(end);
  const device = plan.devices.find((entry) => entry.id === parsed?.device);
  const port = device?.interfaces.find((entry) => entry.name === parsed?.name);
  if (!device || !port) return null;
  const ports = portsGoing(device, port.name);
  const { rest, lost } = withoutInterfaces(device, ports);
  const of = (other: string) => {
    const parts = parseEnd(other);
    return parts?.device === device.id && ports.has(parts.name);
  };
  const fates = lostFates(plan, {
    link: (link) => isLost(plan, link, of),
    ref: (ref) => {
      const element = parseElement(ref);
      if (element?.kind === "direction") return !joins(plan, element, of);
      return ref.startsWith("interface:") && of(ref.slice("interface:".length));
    },
    monitored: (pair, name) => pair.members.includes(device.id) && (ports.has(name) || lost.has(name)),
  });
  const changes: Change[] = [
    ...plan.links.flatMap((link) => withoutEnds(link, of)),
    ...gatewaysWithout(plan, (gateway) => of(gateway.at)),
    ...flowsWithout(plan, {
      flow: (flow) =>
        of(flow.from) ||
        ((parseEnd(flow.from)?.device ?? flow.from) === device.id && ports.has(zoneOf(flow.to) ?? "")),
      gateway: (gateway) => of(gateway.at),
    }),
    ...outagesWithout(plan, (ref) => {
      const element = parseElement(ref);
      if (element?.kind === "watch") return element.device === device.id && lost.has(element.id);
      return fates.gone(ref);
    }),
    ...fatesWithout(plan, fates),
    ...differencePlans({ ...plan, devices: [device] }, { ...plan, devices: [rest] }),
  ];
  return { label: `Remove ${port.name} of ${device.label ?? device.id}${besides(changes)}`, changes };
}

/** Whether a link has an end on a device besides those that go. */
function joins(
  plan: Plan,
  { link, device }: { link: string; device: string },
  going: (end: string) => boolean,
): boolean {
  const ends = plan.links.find(({ id }) => id === link)?.ends ?? [];
  return ends.some((end) => parseEnd(end)?.device === device && !going(end));
}

/** An interface and those that cannot stand without it: tagged ones that pass it, bundles of nothing else. */
function portsGoing(device: Device, name: string): ReadonlySet<string> {
  const going = new Set([name]);
  for (let before = 0; before < going.size; ) {
    before = going.size;
    for (const port of device.interfaces) {
      const bare = port.members?.every((member) => going.has(member));
      if (bare || (port.parent !== undefined && going.has(port.parent))) going.add(port.name);
    }
  }
  return going;
}

/** Whether a device is the last one at a site. */
function lastAt(plan: Plan, site: string, device: string): boolean {
  return !plan.devices.some((other) => other.id !== device && other.site === site);
}

/** What of links, risks and pairs is lost, as whoever takes something out sees it. */
interface Lost {
  readonly link: (id: string) => boolean;
  readonly ref: (ref: string) => boolean;
  readonly monitored?: (pair: Pair, name: string) => boolean;
  /** A device whose pair is no more. */
  readonly member?: string;
}

/** The same with what goes along: links that carried only what is lost, and risks of nothing else. */
interface Fates extends Lost {
  readonly bare: ReadonlySet<string>;
  readonly gone: (ref: string) => boolean;
}

function lostFates(plan: Plan, lost: Lost): Fates {
  // What carried only what is lost, and has no ends itself, is gone too.
  const bare = new Set<string>();
  const link = (id: string) => lost.link(id) || bare.has(id);
  for (let before = -1; before < bare.size; ) {
    before = bare.size;
    for (const { id, ends } of plan.links) {
      const riders = plan.links.filter((rider) => rider.over?.includes(id));
      if (ends.length === 0 && riders.length > 0 && riders.every((rider) => link(rider.id)) && !lost.link(id))
        bare.add(id);
    }
  }
  const ref = (text: string) => {
    const element = parseElement(text);
    if (element?.kind === "direction") return link(element.link) || lost.ref(text);
    return element?.kind === "link" ? link(element.id) : lost.ref(text);
  };
  const risks = new Set(plan.risks.flatMap(({ id, of }) => (of.every(ref) ? [`risk:${id}`] : [])));
  return { ...lost, link, ref, bare, gone: (text) => ref(text) || risks.has(text) };
}

/** Links, risks and pairs without what they name and is lost; a risk of nothing is gone. */
function fatesWithout(plan: Plan, { link: isLostLink, ref: isGone, bare, ...lost }: Fates): Change[] {
  const monitored = (pair: Pair) => (name: string) => lost.monitored?.(pair, name) ?? false;
  const riding = plan.links.filter((link) => !isLostLink(link.id) && link.over?.some(isLostLink));
  const struck = plan.risks.filter((risk) => risk.of.some(isGone));
  const { member } = lost;
  const broken = plan.pairs.filter(({ members }) => member !== undefined && members.includes(member));
  const heard = plan.pairs.filter(
    (pair) =>
      !broken.includes(pair) && (pair.heartbeats.some(isLostLink) || pair.monitor.some(monitored(pair))),
  );
  return [
    ...plan.links.filter(({ id }) => bare.has(id)).map((before) => gone("links", before)),
    ...riding.map((before): Change => {
      const { over, ...rest } = before;
      const left = over?.filter((id) => !isLostLink(id));
      return {
        in: "plan",
        collection: "links",
        before,
        after: left?.length ? { ...rest, over: left } : rest,
      };
    }),
    ...struck.map((before): Change => {
      const of = before.of.filter((ref) => !isGone(ref));
      return of.length
        ? { in: "plan", collection: "risks", before, after: { ...before, of } }
        : gone("risks", before);
    }),
    ...broken.map((before) => gone("pairs", before)),
    ...heard.map(
      (before): Change => ({
        in: "plan",
        collection: "pairs",
        before,
        after: {
          ...before,
          heartbeats: before.heartbeats.filter((id) => !isLostLink(id)),
          monitor: before.monitor.filter((name) => !monitored(before)(name)),
        },
      }),
    ),
  ];
}

/** A device without interfaces and watches and all that needs them; the watches that go along come to those in `lost`. */
function withoutInterfaces(
  device: Device,
  names: ReadonlySet<string>,
  lost = new Set<string>(),
): { rest: Device; lost: ReadonlySet<string> } {
  const goes = (name: string | undefined) => name !== undefined && names.has(name);
  for (const watch of device.watches) {
    const named = watch.kind === "probe" ? [watch.out, watch.source, zoneOf(watch.target)] : [];
    if (watch.kind === "bfd" || watch.kind === "interface") named.push(watch.interface);
    if (named.some(goes)) lost.add(watch.id);
  }
  const watches = withoutWatches(device.watches, lost);
  const routes = (list: StaticRoute[]) =>
    list
      .filter((route) => !goes(route.out) && !goes(route.viaFrom))
      .map((route) => {
        if (route.watch === undefined || !lost.has(route.watch)) return route;
        const { watch: _watch, ...unwatched } = route;
        return unwatched;
      });
  const rest: Device = {
    ...device,
    interfaces: device.interfaces
      .filter((port) => !goes(port.name))
      .map((port) => portWithout(port, names, lost)),
    routes: routes(device.routes),
    learned: device.learned.filter((route) => !goes(route.out)),
    policyTables: device.policyTables.flatMap((table) => {
      const [match] = withoutPorts([table.match], goes);
      return match ? [{ ...table, match, routes: routes(table.routes) }] : [];
    }),
    sourceNat: device.sourceNat.filter((nat) => !goes(nat.out)),
    ...(device.destNat ? { destNat: withoutPorts(device.destNat, goes) } : {}),
    ...(device.marks ? { marks: withoutPorts(device.marks, goes) } : {}),
    watches,
  };
  return { rest, lost };
}

/** Entries without the interfaces that go; those that named no other go too. */
function withoutPorts<T extends { in?: string | string[] | undefined }>(
  list: readonly T[],
  goes: (port: string) => boolean,
): T[] {
  return list.flatMap((entry) => {
    const ports = typeof entry.in === "string" ? [entry.in] : entry.in;
    const left = ports?.filter((port) => !goes(port));
    if (!ports || left?.length === ports.length) return [entry];
    return left?.length ? [{ ...entry, in: left }] : [];
  });
}

/** An interface without the members and tracked things that are lost. */
function portWithout(port: Interface, ports: ReadonlySet<string>, watches: ReadonlySet<string>): Interface {
  const members = port.members?.filter((member) => !ports.has(member));
  const stays = (track: Track) =>
    track.watch === undefined ? !ports.has(track.interface ?? "") : !watches.has(track.watch);
  const same =
    members?.length === port.members?.length &&
    (port.virtual ?? []).every((router) => router.track.every(stays));
  if (same) return port;
  return {
    ...port,
    ...(members ? { members, ...(port.minUp ? { minUp: Math.min(port.minUp, members.length) } : {}) } : {}),
    ...(port.virtual
      ? { virtual: port.virtual.map((router) => ({ ...router, track: router.track.filter(stays) })) }
      : {}),
  };
}

function zoneOf(target: string): string | undefined {
  return parseZonedAddress(target)?.zone ?? undefined;
}

/** The watches that are left, groups without what is lost; a group that watches nothing more is lost too, into `lost`. */
function withoutWatches(watches: readonly Watch[], lost: Set<string>): Watch[] {
  const before = lost.size;
  const left = watches.flatMap((watch): Watch[] => {
    if (lost.has(watch.id)) return [];
    if (watch.kind !== "group") return [watch];
    const of = watch.of.filter((id) => !lost.has(id));
    if (of.length === 0) {
      lost.add(watch.id);
      return [];
    }
    const need = typeof watch.need === "number" ? Math.min(watch.need, of.length) : watch.need;
    return [of.length === watch.of.length ? watch : { ...watch, of, need }];
  });
  return lost.size === before ? left : withoutWatches(left, lost);
}

function gone(
  collection: "links" | "risks" | "pairs" | "gateways" | "flows" | "dismissals" | "devices" | "outages",
  before: object,
): Change {
  return { in: "plan", collection, before, after: null };
}

/** A link without some of its ends; gone where fewer than two are left of two or more. */
function withoutEnds(link: Plan["links"][number], lost: (end: string) => boolean): Change[] {
  const ends = link.ends.filter((end) => !lost(end));
  if (ends.length === link.ends.length) return [];
  if (ends.length < 2) return [gone("links", link)];
  const { hub, ...rest } = link;
  return [
    {
      in: "plan",
      collection: "links",
      before: link,
      after: { ...rest, ...(hub && !lost(hub) ? { hub } : {}), ends },
    },
  ];
}

function gatewaysWithout(plan: Plan, lost: (gateway: Gateway) => boolean): Change[] {
  return plan.gateways.filter(lost).map((before) => gone("gateways", before));
}

/** Flows that cannot be asked any more, gone; what the others expect, without what is lost. */
function flowsWithout(
  plan: Plan,
  lost: { flow: (flow: Flow) => boolean; gateway: (gateway: Gateway) => boolean; device?: string },
): Change[] {
  const gateways = new Set(plan.gateways.filter(lost.gateway).map((gateway) => gateway.id));
  return plan.flows.flatMap((flow): Change[] => {
    if (lost.flow(flow)) return [gone("flows", flow)];
    const { expect } = flow;
    const carriers = expect?.carriers?.filter((id) => !gateways.has(id));
    const through = expect?.through?.filter((id) => id !== lost.device);
    const same = carriers?.length === expect?.carriers?.length && through?.length === expect?.through?.length;
    if (same) return [];
    const { carriers: _c, through: _t, ...rest } = expect ?? {};
    const after = {
      ...flow,
      expect: {
        ...rest,
        ...(carriers?.length ? { carriers } : {}),
        ...(through?.length ? { through } : {}),
      },
    };
    return [{ in: "plan", collection: "flows", before: flow, after }];
  });
}

/** Whether a link goes along with the ends that are lost. */
function isLost(plan: Plan, id: string, lost: (end: string) => boolean): boolean {
  const link = plan.links.find((entry) => entry.id === id);
  return link !== undefined && withoutEnds(link, lost).some((change) => !change.after);
}

function outagesWithout(plan: Plan, lost: (ref: string) => boolean): Change[] {
  return plan.outages.flatMap((outage): Change[] => {
    const names = outage.steps.some((step) =>
      [...(step.fail ?? []), ...(step.shut ?? []), ...(step.restore ?? [])].some(lost),
    );
    if (!names) return [];
    const kept = (refs: string[] | undefined) => refs?.filter((ref) => !lost(ref));
    const steps = outage.steps
      .map((step) => ({
        ...step,
        fail: kept(step.fail),
        ...(step.shut ? { shut: kept(step.shut) } : {}),
        restore: kept(step.restore),
      }))
      .filter((step) => [step.fail, step.shut, step.restore].some((list) => list?.length));
    if (steps.length === 0) return [gone("outages", outage)];
    return [{ in: "plan", collection: "outages", before: outage, after: { ...outage, steps } }];
  });
}

/** What goes along, in words: ", with 2 links and a flow". */
function besides(changes: readonly Change[]): string {
  const nouns = { links: "link", gateways: "gateway", flows: "flow", routes: "route", watches: "watch" };
  const counts = Object.entries(nouns).flatMap(([collection, noun]) => {
    const n = changes.filter(
      (change) => "collection" in change && change.collection === collection && !change.after,
    ).length;
    return n === 0 ? [] : [n === 1 ? `a ${noun}` : `${n} ${collection}`];
  });
  const last = counts.pop();
  if (last === undefined) return "";
  return `, with ${counts.length ? `${counts.join(", ")} and ` : ""}${last}`;
}
