import { formatZonedAddress, parseZonedAddress } from "../address/index.ts";
import type { Device, Interface } from "./device.ts";
import { differencePlans } from "./difference.ts";
import type { Edit } from "./edit.ts";
import { parseElement, parseEnd } from "./elements.ts";
import type { Flow, Outage, Pair, Plan } from "./plan.ts";
import type { StaticRoute } from "./route.ts";
import type { Watch } from "./watch.ts";

/** What is renamed: a device, link, gateway or profile by its id; an interface, watch or zone of a device by its name. */
export type Named =
  | { device: string }
  | { link: string }
  | { gateway: string }
  | { profile: string }
  | { risk: string }
  | { pair: string }
  | { interface: string; of: string }
  | { watch: string; of: string }
  | { zone: string; of: string };

/**
 * A plan in which something has another name, and all that refers to it follows: routes, watches, links, gateways,
 * flows, outages, policies. Whether the new name is free and well written is checked when the edit is applied.
 */
export function renamed(plan: Plan, what: Named, to: string): Plan {
  const names = namesAfter(what, to, mateOf(plan, what));
  return {
    ...plan,
    profiles: plan.profiles.map((entry) => ({
      ...entry,
      id: names.profile(entry.id),
      ...(entry.base === undefined ? {} : { base: names.profile(entry.base) }),
    })),
    devices: plan.devices.map((device) => deviceWith(device, names)),
    links: plan.links.map((link) => ({
      ...mapped(link, { over: (list) => list.map(names.link) }),
      id: names.link(link.id),
      ends: link.ends.map((end) => endWith(end, names)),
      ...(link.hub === undefined ? {} : { hub: endWith(link.hub, names) }),
    })),
    risks: plan.risks.map((risk) => ({
      ...risk,
      id: names.risk(risk.id),
      of: risk.of.map((text) => elementWith(text, names)),
    })),
    pairs: plan.pairs.map((pair) => pairWith(pair, names)),
    gateways: plan.gateways.map((gateway) => ({
      ...gateway,
      id: names.gateway(gateway.id),
      at: endWith(gateway.at, names),
    })),
    flows: plan.flows.map((flow) => flowWith(flow, names)),
    outages: plan.outages.map((outage) => outageWith(outage, names)),
    dismissals: plan.dismissals.map((entry) =>
      entry.device === undefined ? entry : { ...entry, device: names.device(entry.device) },
    ),
  };
}

/** The same as an edit; null where nothing has that name. */
export function renamingOf(plan: Plan, what: Named, to: string): Edit | null {
  const changes = differencePlans(plan, renamed(plan, what, to));
  const [[kind, from]] = Object.entries(what);
  return changes.length === 0 ? null : { label: `Rename the ${kind} ${from} to ${to}`, changes };
}

interface Names {
  device(id: string): string;
  link(id: string): string;
  gateway(id: string): string;
  profile(id: string): string;
  risk(id: string): string;
  pair(id: string): string;
  interface(device: string, name: string): string;
  watch(device: string, id: string): string;
  zone(device: string, name: string): string;
}

/** The other of a pair, in which an interface or a watch has the same name: the two are written as one. */
function mateOf(plan: Plan, what: Named): string | null {
  if (!("of" in what) || "zone" in what) return null;
  const pair = plan.pairs.find(({ members }) => members.includes(what.of));
  return pair?.members.find((id) => id !== what.of) ?? null;
}

function namesAfter(what: Named, to: string, mate: string | null): Names {
  const plain = (kind: "device" | "link" | "gateway" | "profile" | "risk" | "pair") => (name: string) =>
    (what as Record<string, string>)[kind] === name && !("of" in what) ? to : name;
  const owned = (kind: "interface" | "watch" | "zone") => (device: string, name: string) =>
    "of" in what && (what.of === device || device === mate) && (what as Record<string, string>)[kind] === name
      ? to
      : name;
  return {
    device: plain("device"),
    link: plain("link"),
    gateway: plain("gateway"),
    profile: plain("profile"),
    risk: plain("risk"),
    pair: plain("pair"),
    interface: owned("interface"),
    watch: owned("watch"),
    zone: owned("zone"),
  };
}

/** A device and its interface as one text. */
function endWith(end: string, names: Names): string {
  const parsed = parseEnd(end);
  if (!parsed) return end;
  return `${names.device(parsed.device)}/${names.interface(parsed.device, parsed.name)}`;
}

/** An address that may name an interface of the device, as fe80::2%wan1. */
function zonedWith(text: string, device: string, names: Names): string {
  const zoned = parseZonedAddress(text);
  if (!zoned?.zone) return text;
  return formatZonedAddress({ ...zoned, zone: names.interface(device, zoned.zone) });
}

/** The item with some of its fields mapped, where it has them. */
function mapped<T extends object>(
  item: T,
  fields: { [K in keyof T]?: (value: NonNullable<T[K]>) => T[K] },
): T {
  const after = { ...item };
  for (const key of Object.keys(fields) as (keyof T)[]) {
    const value = item[key];
    const map = fields[key];
    if (value !== undefined && value !== null && map) after[key] = map(value);
  }
  return after;
}

function deviceWith(device: Device, names: Names): Device {
  const port = (name: string) => names.interface(device.id, name);
  const zone = (name: string) => names.zone(device.id, name);
  const watch = (id: string) => names.watch(device.id, id);
  const route = (entry: StaticRoute) => mapped(entry, { out: port, viaFrom: port, watch });
  const zones = (list: string[]) => list.map(zone);
  return {
    ...mapped(device, {
      profile: names.profile,
      policy: (policy) => ({
        ...mapped(policy, { trust: zones }),
        rules: policy.rules.map((rule) => mapped(rule, { from: zones, to: zones })),
      }),
    }),
    id: names.device(device.id),
    interfaces: device.interfaces.map((entry) =>
      mapped<Interface>(entry, {
        name: port,
        zone,
        parent: port,
        members: (list) => list.map(port),
        virtual: (list) =>
          list.map((router) => ({
            ...router,
            track: router.track.map((track) => mapped(track, { watch, interface: port })),
          })),
      }),
    ),
    routes: device.routes.map(route),
    learned: device.learned.map((entry) => mapped(entry, { out: port })),
    policyTables: device.policyTables.map((table) => ({
      ...table,
      match: mapped(table.match, { in: (list) => list.map(port) }),
      routes: table.routes.map(route),
    })),
    sourceNat: device.sourceNat.map((entry) => mapped(entry, { out: port })),
    ...(device.destNat && {
      destNat: device.destNat.map((entry) => ({
        ...entry,
        in: typeof entry.in === "string" ? port(entry.in) : entry.in.map(port),
      })),
    }),
    ...(device.marks && {
      marks: device.marks.map((entry) => mapped(entry, { in: (list) => list.map(port) })),
    }),
    watches: device.watches.map((entry) => watchWith(entry, device, names)),
  };
}

function watchWith(entry: Watch, device: Device, names: Names): Watch {
  const port = (name: string) => names.interface(device.id, name);
  const id = names.watch(device.id, entry.id);
  switch (entry.kind) {
    case "probe":
      return {
        ...mapped(entry, { out: port, source: port }),
        id,
        target: zonedWith(entry.target, device.id, names),
      };
    case "group":
      return { ...entry, id, of: entry.of.map((member) => names.watch(device.id, member)) };
    case "route":
      return { ...entry, id };
    default:
      return { ...entry, id, interface: port(entry.interface) };
  }
}

function flowWith(flow: Flow, names: Names): Flow {
  const sender = parseEnd(flow.from)?.device ?? flow.from;
  // A gateway that the plan does not name is called by its exit.
  const carrier = (id: string) => (id.includes("/") ? endWith(id, names) : names.gateway(id));
  return {
    ...mapped(flow, {
      expect: (expect) =>
        mapped(expect, {
          carriers: (list) => list.map(carrier),
          through: (list) => list.map(names.device),
        }),
    }),
    from: flow.from.includes("/") ? endWith(flow.from, names) : names.device(flow.from),
    to: parseZonedAddress(flow.to) ? zonedWith(flow.to, sender, names) : names.device(flow.to),
  };
}

/** A pair whose members, links and what it monitors follow; a name that both members monitor follows the first that has it. */
function pairWith(pair: Pair, names: Names): Pair {
  const monitored = (name: string) => {
    const after = pair.members.map((id) => names.interface(id, names.watch(id, name)));
    return after.find((other) => other !== name) ?? name;
  };
  return {
    ...pair,
    id: names.pair(pair.id),
    members: pair.members.map(names.device),
    active: names.device(pair.active),
    heartbeats: pair.heartbeats.map(names.link),
    monitor: pair.monitor.map(monitored),
  };
}

/** A reference to what can fail. */
function elementWith(text: string, names: Names): string {
  const parsed = parseElement(text);
  switch (parsed?.kind) {
    case "link":
      return `link:${names.link(parsed.id)}`;
    case "direction":
      return `link:${names.link(parsed.link)}@${names.device(parsed.device)}`;
    case "device":
      return `device:${names.device(parsed.id)}`;
    case "interface":
      return `interface:${names.device(parsed.device)}/${names.interface(parsed.device, parsed.name)}`;
    case "watch":
      return `watch:${names.device(parsed.device)}/${names.watch(parsed.device, parsed.id)}`;
    case "risk":
      return `risk:${names.risk(parsed.id)}`;
    default:
      return text;
  }
}

function outageWith(outage: Outage, names: Names): Outage {
  const list = (refs: string[]) => refs.map((text) => elementWith(text, names));
  return {
    ...outage,
    steps: outage.steps.map((step) => mapped(step, { fail: list, shut: list, restore: list })),
  };
}
