import { parseAddress, parseInterfaceAddress, parseZonedAddress } from "../address/index.ts";
import type { Device } from "./device.ts";
import { pathText, type Report, unique } from "./errors.ts";
import { checkBuilt, checkVirtual } from "./interface-references.ts";
import { deviceReferences, eachReference, namedBy } from "./reference-table.ts";
import { describeRoute, routeIdentity, type StaticRoute } from "./route.ts";
import type { Watch } from "./watch.ts";

/** A device with what its own items refer to. */
interface Within {
  readonly device: Device;
  readonly report: Report;
  readonly interfaces: ReadonlyMap<string, Device["interfaces"][number]>;
  readonly watches: ReadonlyMap<string, Watch>;
  readonly vrfs: ReadonlySet<string>;
}

/** Devices already checked without errors. Devices are immutable; an edit makes a new object. */
const sound = new WeakSet<Device>();

/** Names within one device that lead nowhere, and things that stand twice there. */
export function checkDevice(device: Device, path: PropertyKey[], report: Report) {
  if (sound.has(device)) return;
  let faults = 0;
  checkItems(device, path, (at, message) => {
    faults++;
    report(at, message);
  });
  if (faults === 0) sound.add(device);
}

function checkItems(device: Device, path: PropertyKey[], report: Report) {
  const vrfs = [...device.interfaces, ...device.routes, ...device.learned].map((item) => item.vrf ?? "main");
  const within: Within = {
    device,
    report,
    interfaces: new Map(device.interfaces.map((entry) => [entry.name, entry])),
    watches: new Map(device.watches.map((watch) => [watch.id, watch])),
    vrfs: new Set(["main", ...vrfs]),
  };
  const { id } = device;
  unique(device.interfaces, (x) => x.name, [...path, "interfaces"], `interface of ${id}`, report);
  unique(device.watches, (x) => x.id, [...path, "watches"], `watch of ${id}`, report);
  unique(device.policyTables, (x) => x.name, [...path, "policyTables"], `policy table of ${id}`, report);
  checkNames(within, path);
  checkAddresses(device, path, report);
  checkBuilt(device, within.interfaces, path, report);
  checkVirtual(device, path, report);
  checkRoutes(within, device.routes, [...path, "routes"]);
  for (const [i, route] of device.learned.entries()) {
    checkVrf(within, route.out, [...path, "learned", i, "out"], route.vrf ?? "main");
  }
  for (const [i, table] of device.policyTables.entries()) {
    checkPolicyTable(within, table, [...path, "policyTables", i]);
  }
  for (const [i, watch] of device.watches.entries()) checkWatch(within, watch, [...path, "watches", i]);
  if (device.announces && device.role !== "provider") {
    report([...path, "announces"], `only a provider can announce prefixes; ${id} is a ${device.role}`);
  }
  if (device.reserved !== undefined && device.role !== "cloud") {
    report([...path, "reserved"], `only a cloud can reserve addresses; ${id} is a ${device.role}`);
  }
}

/** Texts within a device that name an interface or a watch which it does not have. */
function checkNames({ device, interfaces, watches, report }: Within, path: PropertyKey[]) {
  const known = { interface: interfaces, watch: watches };
  eachReference(device, deviceReferences, path, (text, reference, at) => {
    for (const { kind, name } of namedBy(reference, text, device).targets)
      if ((kind === "interface" || kind === "watch") && !known[kind].has(name))
        report(at, `${device.id} has no ${kind} ${name}`);
  });
}

/** An interface that a route names is in the VRF of the route. */
function checkVrf(
  { device, interfaces, report }: Within,
  name: string | undefined,
  at: PropertyKey[],
  vrf: string,
) {
  const found = name === undefined ? undefined : interfaces.get(name);
  const own = found?.vrf ?? "main";
  if (found && own !== vrf) {
    report(at, `the interface ${name} of ${device.id} is in VRF ${own}, the route in ${vrf}`);
  }
}

function checkRoutes(within: Within, routes: readonly StaticRoute[], at: PropertyKey[]) {
  const { device, report } = within;
  const again = placesOfTwins(routes);
  for (const [i, route] of routes.entries()) {
    const earlier = again.get(i);
    if (earlier !== undefined) {
      report(
        [...at, i],
        `the route ${describeRoute(route)} appears twice on ${device.id}; it is also at ${pathText([...at, earlier])}`,
      );
    }
    checkRoute(within, route, at, i);
  }
}

/** For each route that has the identity of an earlier one, where the first of them stands. */
function placesOfTwins(routes: readonly StaticRoute[]): Map<number, number> {
  const twins = new Map<number, number>();
  // Most destinations have one route, so identities are only computed for the others.
  const byDestination = new Map<string, number>();
  const identities = new Map<string, number>();
  for (let i = 0; i < routes.length; i++) {
    const first = byDestination.get(routes[i].to);
    if (first === undefined) {
      byDestination.set(routes[i].to, i);
      continue;
    }
    const firstIdentity = routeIdentity(routes[first]);
    if (!identities.has(firstIdentity)) identities.set(firstIdentity, first);
    const identity = routeIdentity(routes[i]);
    const earlier = identities.get(identity);
    if (earlier === undefined) identities.set(identity, i);
    else twins.set(i, earlier);
  }
  return twins;
}

/** Whether a route names neither an interface nor a VRF. */
function refersToNothing({ out, viaFrom, toVrf, vrf }: StaticRoute): boolean {
  return [out, viaFrom, toVrf, vrf].every((name) => name === undefined);
}

function checkRoute(within: Within, route: StaticRoute, list: PropertyKey[], i: number) {
  if (refersToNothing(route)) return;
  const at = [...list, i];
  const { device, interfaces, vrfs, report } = within;
  const vrf = route.vrf ?? "main";
  checkVrf(within, route.out, [...at, "out"], vrf);
  checkVrf(within, route.viaFrom, [...at, "viaFrom"], vrf);
  if (route.viaFrom && interfaces.has(route.viaFrom) && !interfaces.get(route.viaFrom)?.gatewayFrom) {
    report(
      [...at, "viaFrom"],
      `no gateway is assigned on ${route.viaFrom} of ${device.id}; set \`gatewayFrom\` there, or set \`via\``,
    );
  }
  if (route.toVrf && !vrfs.has(route.toVrf)) {
    report([...at, "toVrf"], `${device.id} has no interface or route in VRF ${route.toVrf}`);
  }
  if (route.toVrf && route.toVrf === vrf) {
    report([...at, "toVrf"], `the route to ${route.to} leads to its own VRF`);
  }
}

function checkPolicyTable(within: Within, table: Device["policyTables"][number], at: PropertyKey[]) {
  checkRoutes(within, table.routes, [...at, "routes"]);
  const matched = table.match.in ?? [];
  const used = new Set(matched.map((name) => within.interfaces.get(name)?.vrf ?? "main"));
  if (used.size > 1) {
    within.report([...at, "match", "in"], `the interfaces of table ${table.name} are in several VRFs`);
  }
}

function checkWatch(within: Within, watch: Watch, at: PropertyKey[]) {
  const { device, watches, report } = within;
  if (watch.kind === "probe") return checkProbe(within, watch, at);
  if (watch.kind === "route") {
    if (!within.vrfs.has(watch.vrf ?? "main"))
      report([...at, "vrf"], `${device.id} has no interface or route in VRF ${watch.vrf}`);
    return;
  }
  if (watch.kind !== "group") return;
  if (typeof watch.need === "number" && watch.need > watch.of.length) {
    report([...at, "need"], `needs ${watch.need} of only ${watch.of.length} watches`);
  }
  if (groupHolds(watch.id, watch.of, watches)) report(at, `the group ${watch.id} contains itself`);
}

function checkProbe(within: Within, watch: Extract<Watch, { kind: "probe" }>, at: PropertyKey[]) {
  const { report } = within;
  const target = parseZonedAddress(watch.target);
  if (target?.zone && watch.out && target.zone !== watch.out) {
    report(
      [...at, "out"],
      `the target ${watch.target} is on ${target.zone}, and the probes leave by ${watch.out}`,
    );
  }
  if (watch.via && parseAddress(watch.via)?.family !== target?.address.family) {
    report(
      [...at, "via"],
      `the next hop ${watch.via} and the target ${watch.target} have different address families`,
    );
  }
}

function groupHolds(id: string, of: readonly string[], watches: ReadonlyMap<string, Watch>): boolean {
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
          `${text} appears twice on ${device.id}; it is also on ${earlier}`,
        );
      }
      owner.set(address, entry.name);
    }
  }
}
