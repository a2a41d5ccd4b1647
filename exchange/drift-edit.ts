import {
  type Device,
  differencePlans,
  type Edit,
  formatPlanError,
  type Plan,
  type StaticRoute,
  sameValue,
} from "../core/plan/index.ts";
import type { DriftEntry } from "./drift-entry.ts";
import { virtualTaken } from "./drift-virtual.ts";
import { Collector, type DeviceFacts, type RouteFact } from "./facts/index.ts";
import { mergeNew } from "./rebuild/merge.ts";
import { idOf, interfaceNameOf } from "./rebuild/names.ts";
import { rebuildPlan } from "./rebuild/plan.ts";
import { readValidParts } from "./rebuild/valid-parts.ts";

/** Differences that can be imported into a plan; the others describe a state, and need work on the device or
 * conditions. */
const takeable = new Set<DriftEntry["kind"]>([
  "device-unknown",
  "route-missing",
  "route-extra",
  "route-differs",
  "interface-missing",
  "interface-extra",
  "address-missing",
  "address-extra",
  "virtual-missing",
  "virtual-extra",
  "virtual-differs",
]);

export const isTakeable = ({ kind }: DriftEntry): boolean => takeable.has(kind);

export type DriftEdit = { ok: true; edit: Edit } | { ok: false; why: string };

/** The edit that makes the plan match the readings in the given differences. `facts`: the readings of all devices. */
export function editOfDrift(
  plan: Plan,
  facts: readonly DeviceFacts[],
  entries: readonly DriftEntry[],
): DriftEdit {
  const chosen = entries.filter(isTakeable);
  const unknown = chosen.filter(({ kind }) => kind === "device-unknown").map(({ device }) => device);
  const added = unknown.length > 0 ? withDevices(plan, facts, unknown) : plan;
  if (typeof added === "string") return { ok: false, why: added };
  const seen = new Map(facts.map((entry) => [idOf(entry.device), entry]));
  const devices = added.devices.map((device) =>
    chosen
      .filter((entry) => entry.device === device.id)
      .reduce((now, entry) => taken(now, entry, seen.get(device.id)), device),
  );
  const read = readValidParts({ ...added, devices });
  if (!read.ok) return { ok: false, why: read.errors.map(formatPlanError).join("; ") };
  if (read.leftOut.length > 0) return { ok: false, why: read.leftOut.map(formatPlanError).join("; ") };
  const changes = differencePlans(plan, read.plan);
  if (changes.length === 0) return { ok: false, why: "the plan already contains all of it" };
  return { ok: true, edit: { label: labelOf(chosen), changes } };
}

function labelOf(chosen: readonly DriftEntry[]): string {
  const names = [...new Set(chosen.map(({ device }) => device))];
  const who = names.length > 3 ? `${names.length} devices` : names.join(", ");
  return `Update plan from readings of ${who}`.slice(0, 300);
}

function withDevices(plan: Plan, facts: readonly DeviceFacts[], names: readonly string[]): Plan | string {
  const devices = facts.map((entry) => Collector.from(entry));
  const outcome = rebuildPlan({ devices, cables: [], lines: [], openWords: new Map() }, plan.name);
  if (!outcome.ok) return outcome.errors.map(formatPlanError).join("; ");
  const merged = mergeNew(plan, outcome.rebuilt, new Set(names.map(idOf)));
  return merged.ok ? merged.plan : merged.errors.map(formatPlanError).join("; ");
}

/** A device with one difference taken over. */
function taken(device: Device, entry: DriftEntry, facts: DeviceFacts | undefined): Device {
  const { kind, subject, planned, seen } = entry;
  const sameRoute = (route: StaticRoute) => sameValue(route, planned);
  switch (kind) {
    case "route-missing":
      return { ...device, routes: device.routes.filter((route) => !sameRoute(route)) };
    case "route-extra":
      return { ...device, routes: [...device.routes, routeFrom(seen as RouteFact)] };
    case "route-differs":
      return {
        ...device,
        routes: device.routes.map((route) =>
          sameRoute(route) ? changedRoute(route, seen as RouteFact) : route,
        ),
      };
    case "interface-missing":
      return { ...device, interfaces: device.interfaces.filter(({ name }) => name !== subject) };
    case "interface-extra": {
      const now = facts?.interfaces.find(({ name }) => interfaceNameOf(name) === subject);
      const { vrf } = now ?? {};
      const more = vrf && vrf !== "main" ? { vrf } : {};
      return {
        ...device,
        interfaces: [...device.interfaces, { name: subject, addresses: now?.addresses ?? [], ...more }],
      };
    }
    case "address-missing":
      return withAddresses(device, subject, (own) => own.filter((address) => address !== planned));
    case "address-extra":
      return withAddresses(device, subject, (own) => [...own, String(seen)]);
    case "virtual-missing":
    case "virtual-extra":
    case "virtual-differs":
      return virtualTaken(device, entry);
    default:
      return device;
  }
}

function withAddresses(device: Device, name: string, change: (own: string[]) => string[]): Device {
  const interfaces = device.interfaces.map((entry) =>
    entry.name === name ? { ...entry, addresses: change([...entry.addresses]) } : entry,
  );
  return { ...device, interfaces };
}

function routeFrom({ to, via, out, vrf, distance, metric, discard }: RouteFact): StaticRoute {
  return {
    to,
    ...(via !== null && discard === null ? { via } : {}),
    ...(out !== null && discard === null ? { out: interfaceNameOf(out) } : {}),
    ...(vrf !== "main" ? { vrf } : {}),
    ...(distance !== null && distance > 0 ? { distance } : {}),
    ...(metric !== null && metric > 0 ? { metric } : {}),
    ...(discard !== null ? { discard } : {}),
  };
}

/** What the device says goes first; a name, a note and a watch of the planned route stay. */
function changedRoute(planned: StaticRoute, seen: RouteFact): StaticRoute {
  const { via: _via, out, discard: _discard, ...kept } = planned;
  const { distance: ownDistance, metric: ownMetric, ...fresh } = routeFrom(seen);
  // A device that names no interface does not say that it is another one.
  const keepsOut =
    fresh.out === undefined && fresh.via !== undefined && out !== undefined && fresh.via === planned.via;
  return {
    ...kept,
    ...fresh,
    ...(keepsOut ? { out } : {}),
    ...(seen.distance === null ? {} : { distance: ownDistance }),
    ...(seen.metric === null ? {} : { metric: ownMetric }),
  };
}
