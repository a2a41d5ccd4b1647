import { parseAddress, parseInterfaceAddress, parseZonedAddress } from "../address/index.ts";
import type { Device } from "./device.ts";
import { parseElement, parseEnd } from "./elements.ts";
import { type PlanError, pathText } from "./errors.ts";
import { dismissalKey, type Plan } from "./plan.ts";
import { builtInProfiles } from "./profile.ts";
import { describeRoute, routeIdentity, type StaticRoute } from "./route.ts";

type Report = (path: PropertyKey[], message: string) => void;

/** What the shape alone cannot tell: names that lead nowhere, and things that stand twice. */
export function checkReferences(plan: Plan): PlanError[] {
  const errors: PlanError[] = [];
  const report: Report = (path, message) => errors.push({ path: pathText(path), message });
  const devices = new Map(plan.devices.map((device) => [device.id, device]));

  unique(plan.profiles, (p) => p.id, ["profiles"], "profile", report);
  unique(plan.devices, (d) => d.id, ["devices"], "device", report);
  unique(plan.links, (l) => l.id, ["links"], "link", report);
  unique(plan.gateways, (g) => g.id, ["gateways"], "gateway", report);
  unique(plan.flows, (f) => f.id, ["flows"], "flow", report);
  unique(plan.outages, (o) => o.id, ["outages"], "outage", report);
  unique(plan.dismissals, dismissalKey, ["dismissals"], "dismissal", report);

  checkProfiles(plan, report);
  for (const [i, device] of plan.devices.entries()) checkDevice(plan, device, ["devices", i], report);
  checkLinks(plan, devices, report);
  for (const [i, gateway] of plan.gateways.entries()) {
    checkEnd(gateway.at, devices, ["gateways", i, "at"], report);
  }
  for (const i of plan.flows.keys()) checkFlow(plan, i, devices, report);
  checkOutages(plan, devices, report);
  return errors;
}

/** The same for a sound plan of which only routes of these devices have changed. */
export function checkRoutesOf(plan: Plan, devices: ReadonlySet<string>): PlanError[] {
  const errors: PlanError[] = [];
  const report: Report = (path, message) => errors.push({ path: pathText(path), message });
  for (const [i, device] of plan.devices.entries()) {
    if (devices.has(device.id)) checkDevice(plan, device, ["devices", i], report);
  }
  return errors;
}

function unique<T>(
  items: readonly T[],
  key: (item: T) => string,
  path: PropertyKey[],
  what: string,
  report: Report,
) {
  const first = new Map<string, number>();
  for (const [i, item] of items.entries()) {
    const k = key(item);
    const earlier = first.get(k);
    if (earlier === undefined) first.set(k, i);
    else report([...path, i], `the ${what} ${k} stands twice; it is also ${pathText([...path, earlier])}`);
  }
}

function checkProfiles(plan: Plan, report: Report) {
  const known = new Set([...Object.keys(builtInProfiles), ...plan.profiles.map((p) => p.id)]);
  for (const [i, profile] of plan.profiles.entries()) {
    if (profile.id in builtInProfiles) {
      report(["profiles", i, "id"], `${profile.id} is a built-in profile; choose another id`);
    }
    if (profile.base && !known.has(profile.base)) {
      report(["profiles", i, "base"], `there is no profile ${profile.base}`);
    }
    const seen = new Set([profile.id]);
    for (let base = profile.base; base && !(base in builtInProfiles); ) {
      if (seen.has(base)) {
        report(["profiles", i, "base"], `the profile ${profile.id} is its own base`);
        break;
      }
      seen.add(base);
      base = plan.profiles.find((p) => p.id === base)?.base;
    }
  }
  for (const [i, device] of plan.devices.entries()) {
    if (device.profile && !known.has(device.profile)) {
      report(
        ["devices", i, "profile"],
        `there is no profile ${device.profile}; built in are ${Object.keys(builtInProfiles).join(", ")}`,
      );
    }
  }
}

function checkDevice(_plan: Plan, device: Device, path: PropertyKey[], report: Report) {
  const interfaces = new Map(device.interfaces.map((entry) => [entry.name, entry]));
  const watches = new Map(device.watches.map((watch) => [watch.id, watch]));
  const vrfs = new Set(["main", ...device.interfaces.map((entry) => entry.vrf ?? "main")]);
  for (const route of [...device.routes, ...device.learned]) vrfs.add(route.vrf ?? "main");

  unique(device.interfaces, (x) => x.name, [...path, "interfaces"], `interface of ${device.id}`, report);
  unique(device.watches, (x) => x.id, [...path, "watches"], `watch of ${device.id}`, report);
  unique(
    device.policyTables,
    (x) => x.name,
    [...path, "policyTables"],
    `policy table of ${device.id}`,
    report,
  );
  checkAddresses(device, path, report);

  const needInterface = (name: string | undefined, at: PropertyKey[], vrf?: string) => {
    if (name === undefined) return;
    const found = interfaces.get(name);
    if (!found) report(at, `${device.id} has no interface ${name}`);
    else if (vrf !== undefined && (found.vrf ?? "main") !== vrf) {
      report(
        at,
        `the interface ${name} of ${device.id} is in VRF ${found.vrf ?? "main"}, the route in ${vrf}`,
      );
    }
  };
  const checkRoutes = (routes: readonly StaticRoute[], at: PropertyKey[]) => {
    const first = new Map<string, number>();
    for (const [i, route] of routes.entries()) {
      const identity = routeIdentity(route);
      const earlier = first.get(identity);
      if (earlier === undefined) first.set(identity, i);
      else {
        report(
          [...at, i],
          `the route ${describeRoute(route)} stands twice on ${device.id}; it is also ${pathText([...at, earlier])}`,
        );
      }
      needInterface(route.out, [...at, i, "out"], route.vrf ?? "main");
      needInterface(route.viaFrom, [...at, i, "viaFrom"], route.vrf ?? "main");
      if (route.viaFrom && interfaces.has(route.viaFrom) && !interfaces.get(route.viaFrom)?.gatewayFrom) {
        report(
          [...at, i, "viaFrom"],
          `no gateway is handed out on ${route.viaFrom} of ${device.id}; say gatewayFrom there, or give via`,
        );
      }
      if (route.watch && !watches.has(route.watch)) {
        report([...at, i, "watch"], `${device.id} has no watch ${route.watch}`);
      }
      if (route.toVrf && !vrfs.has(route.toVrf)) {
        report([...at, i, "toVrf"], `${device.id} has no interface or route in VRF ${route.toVrf}`);
      }
      if (route.toVrf && route.toVrf === (route.vrf ?? "main")) {
        report([...at, i, "toVrf"], `the route to ${route.to} leads to the VRF that it stands in`);
      }
    }
  };

  checkRoutes(device.routes, [...path, "routes"]);
  for (const [i, route] of device.learned.entries()) {
    needInterface(route.out, [...path, "learned", i, "out"], route.vrf ?? "main");
  }
  for (const [i, table] of device.policyTables.entries()) {
    const at = [...path, "policyTables", i];
    checkRoutes(table.routes, [...at, "routes"]);
    for (const [k, name] of (table.match.in ?? []).entries()) needInterface(name, [...at, "match", "in", k]);
    const used = new Set((table.match.in ?? []).map((name) => interfaces.get(name)?.vrf ?? "main"));
    if (used.size > 1)
      report([...at, "match", "in"], `the interfaces of table ${table.name} are in several VRFs`);
  }
  for (const [i, nat] of device.sourceNat.entries()) needInterface(nat.out, [...path, "sourceNat", i, "out"]);
  for (const [i, watch] of device.watches.entries()) {
    const at = [...path, "watches", i];
    if (watch.kind === "probe") {
      needInterface(watch.out, [...at, "out"]);
      if (watch.source !== undefined && !parseAddress(watch.source)) {
        needInterface(watch.source, [...at, "source"]);
      }
      const target = parseZonedAddress(watch.target);
      if (target?.zone) needInterface(target.zone, [...at, "target"]);
      if (target?.zone && watch.out && target.zone !== watch.out) {
        report(
          [...at, "out"],
          `the target ${watch.target} is on ${target.zone}, and the probes leave by ${watch.out}`,
        );
      }
      if (watch.via && parseAddress(watch.via)?.family !== target?.address.family) {
        report(
          [...at, "via"],
          `the next hop ${watch.via} and the target ${watch.target} are of different families`,
        );
      }
    } else if (watch.kind === "group") {
      for (const [k, member] of watch.of.entries()) {
        if (!watches.has(member)) report([...at, "of", k], `${device.id} has no watch ${member}`);
      }
      if (typeof watch.need === "number" && watch.need > watch.of.length) {
        report([...at, "need"], `needs ${watch.need} of only ${watch.of.length} watches`);
      }
      if (groupHolds(watch.id, watch.of, watches)) report(at, `the group ${watch.id} holds itself`);
    } else needInterface(watch.interface, [...at, "interface"]);
  }
  if (device.announces && device.role !== "provider") {
    report([...path, "announces"], `only a provider announces; ${device.id} is a ${device.role}`);
  }
  if (device.reserved !== undefined && device.role !== "cloud") {
    report([...path, "reserved"], `only a cloud has reserved addresses; ${device.id} is a ${device.role}`);
  }
}

function groupHolds(
  id: string,
  of: readonly string[],
  watches: Map<string, Device["watches"][number]>,
): boolean {
  const seen = new Set<string>();
  const open = [...of];
  for (let member = open.pop(); member !== undefined; member = open.pop()) {
    if (member === id) return true;
    if (seen.has(member)) continue;
    seen.add(member);
    const watch = watches.get(member);
    if (watch?.kind === "group") open.push(...watch.of);
  }
  return false;
}

function checkAddresses(device: Device, path: PropertyKey[], report: Report) {
  const owner = new Map<string, string>();
  for (const [i, entry] of device.interfaces.entries()) {
    for (const [k, text] of entry.addresses.entries()) {
      const address = `${entry.vrf ?? "main"} ${text.slice(0, text.indexOf("/"))}`;
      const earlier = owner.get(address);
      const linkLocal = parseInterfaceAddress(text)?.address.w0 === 0xfe800000;
      if (earlier !== undefined && !(linkLocal && earlier !== entry.name)) {
        report(
          [...path, "interfaces", i, "addresses", k],
          `${text} stands twice on ${device.id}; ${earlier} has it too`,
        );
      }
      owner.set(address, entry.name);
    }
  }
}

function checkEnd(end: string, devices: Map<string, Device>, path: PropertyKey[], report: Report): boolean {
  const parsed = parseEnd(end);
  const device = parsed && devices.get(parsed.device);
  if (!parsed || !device) {
    report(path, `there is no device ${parsed?.device ?? end}`);
    return false;
  }
  if (device.interfaces.some((entry) => entry.name === parsed.name)) return true;
  report(path, `${device.id} has no interface ${parsed.name}`);
  return false;
}

function checkLinks(plan: Plan, devices: Map<string, Device>, report: Report) {
  const linkOf = new Map<string, string>();
  for (const [i, link] of plan.links.entries()) {
    if (link.medium === "cable" && link.ends.length !== 2) {
      report(["links", i, "ends"], `the cable ${link.id} has ${link.ends.length} ends; a cable has 2`);
    }
    for (const [k, end] of link.ends.entries()) {
      const path = ["links", i, "ends", k];
      if (!checkEnd(end, devices, path, report)) continue;
      const earlier = linkOf.get(end);
      if (earlier !== undefined) report(path, `${end} is already an end of the link ${earlier}`);
      linkOf.set(end, link.id);
      const parsed = parseEnd(end);
      const kind = devices.get(parsed?.device ?? "")?.interfaces.find((x) => x.name === parsed?.name)?.kind;
      if (kind === "loopback") report(path, `${end} is a loopback; no link ends there`);
    }
  }
}

function checkFlow(plan: Plan, i: number, devices: Map<string, Device>, report: Report) {
  const flow = plan.flows[i];
  const at = ["flows", i];
  if (flow.from.includes("/")) checkEnd(flow.from, devices, [...at, "from"], report);
  else if (!devices.has(flow.from)) report([...at, "from"], `there is no device ${flow.from}`);
  const zoned = parseZonedAddress(flow.to);
  const to = zoned?.address ?? null;
  if (!to && !devices.has(flow.to)) {
    report([...at, "to"], `"${flow.to.slice(0, 60)}" is neither an address nor a device of this plan`);
  }
  const sender = parseEnd(flow.from)?.device ?? flow.from;
  if (zoned?.zone && devices.has(sender)) checkEnd(`${sender}/${zoned.zone}`, devices, [...at, "to"], report);
  const source = flow.source ? parseAddress(flow.source) : null;
  if (to && source && to.family !== source.family) {
    report(
      [...at, "source"],
      `the source ${flow.source} and the destination ${flow.to} are of different families`,
    );
  }
  for (const [k, id] of (flow.expect?.through ?? []).entries()) {
    if (!devices.has(id)) report([...at, "expect", "through", k], `there is no device ${id}`);
  }
  // Without gateways in the plan they are derived, and only the computed network knows their names.
  if (plan.gateways.length === 0) return;
  for (const [k, id] of (flow.expect?.carriers ?? []).entries()) {
    if (!plan.gateways.some((gateway) => gateway.id === id)) {
      report([...at, "expect", "carriers", k], `there is no gateway ${id}`);
    }
  }
}

function checkOutages(plan: Plan, devices: Map<string, Device>, report: Report) {
  for (const [i, outage] of plan.outages.entries()) {
    for (const [k, step] of outage.steps.entries()) {
      for (const key of ["fail", "restore"] as const) {
        for (const [n, text] of (step[key] ?? []).entries()) {
          const missing = missingElement(text, plan, devices);
          if (missing) report(["outages", i, "steps", k, key, n], missing);
        }
      }
    }
  }
}

/** A sentence where the element is none of the plan's; null where it is. */
export function missingElement(
  text: string,
  plan: Plan,
  devices = new Map(plan.devices.map((device) => [device.id, device])),
): string | null {
  const element = parseElement(text);
  if (!element) {
    return `"${text.slice(0, 60)}" names no element; write link:ID, interface:DEVICE/NAME, device:ID or watch:DEVICE/ID`;
  }
  if (element.kind === "link") {
    return plan.links.some((link) => link.id === element.id) ? null : `there is no link ${element.id}`;
  }
  const id = element.kind === "device" ? element.id : element.device;
  const device = devices.get(id);
  if (!device) return `there is no device ${id}`;
  if (element.kind === "interface" && !device.interfaces.some((x) => x.name === element.name)) {
    return `${id} has no interface ${element.name}`;
  }
  if (element.kind === "watch" && !device.watches.some((x) => x.id === element.id)) {
    return `${id} has no watch ${element.id}`;
  }
  return null;
}
