import { formatPrefix, parseInterfaceAddress, parsePrefix } from "../core/address/index.ts";
import { type Device, dismissalKey, type StaticRoute } from "../core/plan/index.ts";
import { tableReport } from "../core/reports/index.ts";
import type { Scenario } from "../core/scenario/index.ts";
import { type DriftEntry, type IgnoredDrift, ignoringOf } from "./drift-entry.ts";
import { virtualDrift } from "./drift-virtual.ts";
import type { DeviceFacts, RouteFact } from "./facts/index.ts";
import { idOf, interfaceNameOf } from "./rebuild/names.ts";
import { isStatic } from "./rebuild/routes.ts";

export interface Drift {
  /** Differences that are not ignored. */
  differences: DriftEntry[];
  /** Differences that the plan's dismissals ignore. */
  ignored: IgnoredDrift[];
  /** Devices of the plan that were compared. */
  compared: string[];
}

/** Readings compared with a plan, and with its prediction under the scenario's conditions. */
export function driftOf(model: Scenario, said: readonly DeviceFacts[]): Drift {
  const differences: DriftEntry[] = [];
  const compared: string[] = [];
  for (const facts of said) {
    const name = facts.device;
    const device = model.plan.devices.find(({ id, label }) => id === idOf(name) || label === name);
    if (!device) {
      const text = `the plan has no device ${name}`;
      differences.push({
        device: name,
        kind: "device-unknown",
        subject: name,
        planned: null,
        seen: name,
        text,
      });
      continue;
    }
    compared.push(device.id);
    differences.push(
      ...interfaceDrift(model, device, facts),
      ...virtualDrift(model, device, facts),
      ...routeDrift(model, device, facts),
    );
  }
  const reasons = new Map(model.plan.dismissals.map((one) => [dismissalKey(one), one.reason]));
  const judged = differences.map((entry) => ({
    entry,
    reason: reasons.get(dismissalKey(ignoringOf(entry))),
  }));
  return {
    differences: judged.flatMap(({ entry, reason }) => (reason === undefined ? [entry] : [])),
    ignored: judged.flatMap(({ entry, reason }) => (reason === undefined ? [] : [{ ...entry, reason }])),
    compared,
  };
}

function interfaceDrift(model: Scenario, device: Device, facts: DeviceFacts): DriftEntry[] {
  const found: DriftEntry[] = [];
  const add = (kind: DriftEntry["kind"], subject: string, planned: unknown, seen: unknown, text: string) =>
    found.push({ device: device.id, kind, subject, planned, seen, text });
  // A source without interfaces says nothing about them.
  if (facts.interfaces.length === 0) return found;
  const seen = new Map(facts.interfaces.map((entry) => [interfaceNameOf(entry.name), entry]));
  const { network, world } = model;
  for (const entry of device.interfaces) {
    const now = seen.get(entry.name);
    if (!now) {
      add(
        "interface-missing",
        entry.name,
        entry.name,
        null,
        `the interface ${entry.name} is missing on the device`,
      );
      continue;
    }
    const own = new Set(now.addresses);
    for (const address of entry.addresses) {
      if (!own.has(address))
        add("address-missing", entry.name, address, null, `${entry.name} has no ${address}`);
    }
    for (const address of now.addresses) {
      const linkLocal = parseInterfaceAddress(address)?.address.w0 === 0xfe800000;
      if (!entry.addresses.includes(address) && !linkLocal) {
        add(
          "address-extra",
          entry.name,
          null,
          address,
          `${entry.name} has ${address}, which is not in the plan`,
        );
      }
    }
    const predicted =
      world.state.interfaceUp[network.interfaceIndex.get(`${device.id}/${entry.name}`) as number] === 1;
    if (now.up !== null && now.up !== predicted && entry.kind !== "loopback") {
      const [is, should] = now.up ? ["up", "down"] : ["down", "up"];
      add("interface-state", entry.name, predicted, now.up, `${entry.name} is ${is}, predicted ${should}`);
    }
  }
  for (const [name, entry] of seen) {
    const planned = device.interfaces.some((own) => own.name === name);
    if (!planned && entry.addresses.length > 0) {
      add(
        "interface-extra",
        name,
        null,
        name,
        `the interface ${name} (${entry.addresses.join(", ")}) is not in the plan`,
      );
    }
  }
  return found;
}

const routeKey = (route: { to: string; vrf: string; via: string | null; out: string | null }) =>
  `${route.vrf} ${route.to} ${route.via ?? ""} ${route.via ? "" : (route.out ?? "")}`;

function plannedOf(device: Device) {
  return device.routes
    .filter((route) => route.enabled !== false)
    .map((route) => ({
      route,
      key: routeKey({
        to: route.to,
        vrf: route.vrf ?? "main",
        via: route.via ?? null,
        out: route.out ?? null,
      }),
    }));
}

function routeDrift(model: Scenario, device: Device, facts: DeviceFacts): DriftEntry[] {
  const found: DriftEntry[] = [];
  const add = (kind: DriftEntry["kind"], subject: string, planned: unknown, seen: unknown, text: string) =>
    found.push({ device: device.id, kind, subject, planned, seen, text });
  const tables = new Set(facts.rules.map(({ table }) => table));
  const written = facts.routes.filter(
    (route) => isStatic(route) && !(route.table !== null && tables.has(route.table)),
  );
  const seen = new Map(written.map((route) => [routeKey(route), route]));
  const planned = plannedOf(device);
  const extra = new Set(seen.keys());
  const missing: StaticRoute[] = [];
  for (const { route, key } of planned) {
    const now = seen.get(key);
    if (now) extra.delete(key);
    if (!now) missing.push(route);
    else {
      for (const text of otherwise(route, now)) add("route-differs", route.to, route, now, text);
      found.push(...inUseDrift(model, device, route, now));
    }
  }
  for (const route of missing) {
    // One route to the same destination that leads elsewhere is the same route, changed.
    const key = [...extra].find((candidate) => candidate.startsWith(`${route.vrf ?? "main"} ${route.to} `));
    const now = key === undefined ? undefined : seen.get(key);
    if (key === undefined || !now) {
      add(
        "route-missing",
        route.to,
        route,
        null,
        `the route ${lineOf(route.to, route.via, route.out)} is missing on the device`,
      );
      continue;
    }
    extra.delete(key);
    add(
      "route-differs",
      route.to,
      route,
      now,
      `the route to ${route.to} leads ${lineOf("", now.via, now.out)}, planned ${lineOf("", route.via, route.out)}`,
    );
  }
  for (const key of extra) {
    const now = seen.get(key) as RouteFact;
    add("route-extra", now.to, null, now, `the route ${lineOf(now.to, now.via, now.out)} is not in the plan`);
  }
  return found;
}

function lineOf(to: string, via: string | null | undefined, out: string | null | undefined): string {
  return (
    [to, via ? `via ${via}` : "", out && !via ? `out ${out}` : ""].filter(Boolean).join(" ") || "nowhere"
  );
}

/** Differences of an existing route from the plan; values that the device does not report are not compared. */
function otherwise(route: StaticRoute, now: RouteFact): string[] {
  const told: string[] = [];
  if (now.distance !== null && route.distance !== undefined && now.distance !== route.distance) {
    told.push(`the route to ${route.to} has the distance ${now.distance}, planned ${route.distance}`);
  }
  if (now.metric !== null && now.metric !== (route.metric ?? 0)) {
    told.push(`the route to ${route.to} has the metric ${now.metric}, planned ${route.metric ?? 0}`);
  }
  if (now.discard !== (route.discard ?? null)) {
    told.push(`the route to ${route.to} ${now.discard ? "discards" : "forwards"}, planned the opposite`);
  }
  return told;
}

/** Whether the device uses a route as predicted, where it tells. */
function inUseDrift(model: Scenario, device: Device, route: StaticRoute, now: RouteFact): DriftEntry[] {
  const prefix = parsePrefix(route.to);
  const index = model.network.deviceIndex.get(device.id);
  if (now.active === null || !prefix || index === undefined) return [];
  const report = tableReport(model.world, index, route.vrf ?? "main");
  const row = report.routes.find(
    (entry) =>
      entry.source === "static" && entry.to === formatPrefix(prefix) && entry.via === (route.via ?? null),
  );
  if (!row || (row.state === "in-use") === now.active) return [];
  const kind = now.active ? "route-in-use" : "route-not-in-use";
  const text = now.active
    ? `the route to ${route.to} is active, predicted ${row.state}`
    : `the route to ${route.to} is not active, predicted active`;
  return [{ device: device.id, kind, subject: route.to, planned: row.state, seen: now.active, text }];
}
