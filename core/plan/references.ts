import { parseAddress, parseZonedAddress } from "../address/index.ts";
import type { Device, Interface } from "./device.ts";
import { checkDevice } from "./device-references.ts";
import { devicesOn, parseElement } from "./elements.ts";
import { type PlanError, pathText, type Report, unique } from "./errors.ts";
import { checkCarried, checkPairs, checkRisks } from "./fate-references.ts";
import { ELEMENT_FORMS } from "./fields.ts";
import { LIMITS } from "./limits.ts";
import { dismissalKey, type Plan } from "./plan.ts";
import { builtInProfiles } from "./profile.ts";
import { eachReference, namedBy, type Reference, references, type Target } from "./reference-table.ts";

/** What the schema cannot check: names that lead nowhere, and items that appear twice. */
export function checkReferences(plan: Plan): PlanError[] {
  const errors: PlanError[] = [];
  const report: Report = (path, message) => errors.push({ path: pathText(path), message });
  const devices = new Map(plan.devices.map((device) => [device.id, device]));

  unique(plan.profiles, (p) => p.id, ["profiles"], "profile", report);
  unique(plan.devices, (d) => d.id, ["devices"], "device", report);
  unique(plan.links, (l) => l.id, ["links"], "link", report);
  unique(plan.risks, (r) => r.id, ["risks"], "risk", report);
  unique(plan.pairs, (p) => p.id, ["pairs"], "pair", report);
  unique(plan.gateways, (g) => g.id, ["gateways"], "gateway", report);
  unique(plan.flows, (f) => f.id, ["flows"], "flow", report);
  unique(plan.outages, (o) => o.id, ["outages"], "outage", report);
  unique(plan.dismissals, dismissalKey, ["dismissals"], "dismissal", report);

  checkProfiles(plan, report);
  for (const [i, device] of plan.devices.entries()) checkDevice(device, ["devices", i], report);
  for (const collection of ["links", "risks", "pairs", "gateways", "flows", "outages"] as const)
    checkNames(plan, collection, devices, report);
  checkLinks(plan, report);
  checkCarried(plan, report);
  checkRisks(plan, report);
  checkPairs(plan, devices, report);
  for (const i of plan.flows.keys()) checkFlow(plan, i, report);
  return errors;
}

/** The same for a sound plan of which only what these devices say within themselves has changed; `watches`: theirs among it. */
export function checkWithin(plan: Plan, devices: ReadonlySet<string>, watches: boolean): PlanError[] {
  const errors: PlanError[] = [];
  const report: Report = (path, message) => errors.push({ path: pathText(path), message });
  for (const [i, device] of plan.devices.entries()) {
    if (devices.has(device.id)) checkDevice(device, ["devices", i], report);
  }
  if (watches)
    checkNames(plan, "outages", new Map(plan.devices.map((device) => [device.id, device])), report);
  return errors;
}

/** Texts of a collection that name what the plan does not have. */
function checkNames(
  plan: Plan,
  collection: "links" | "risks" | "pairs" | "gateways" | "flows" | "outages",
  devices: ReadonlyMap<string, Device>,
  report: Report,
) {
  const [node] = references[collection];
  const links = new Set(plan.links.map(({ id }) => id));
  const names: Names = { plan, devices, links };
  for (const [i, item] of plan[collection].entries())
    eachReference(item, node, [collection, i], (text, reference, path) => {
      const missing = missingName(text, reference, item, names);
      if (missing !== null) report(path, missing);
    });
}

/** What a plan has, to look names up in. */
interface Names {
  readonly plan: Plan;
  readonly devices: ReadonlyMap<string, Device>;
  readonly links: ReadonlySet<string>;
}

/** A sentence where a text names what the plan does not have; null where all is there. */
function missingName(text: string, reference: Reference, item: object, names: Names): string | null {
  const { plan, devices } = names;
  if (reference.form === "element") return missingElement(text, plan, devices);
  // Checked where more is known: gateways may be derived, and what a pair monitors is on both its members.
  if (reference.form === "carrier" || reference.form === "monitored") return null;
  for (const target of namedBy(reference, text, item).targets) {
    const missing = missingTarget(target, names);
    if (missing === null) continue;
    return reference.form === "receiver" && target.kind === "device"
      ? `"${text.slice(0, 60)}" is neither an address nor a device of this plan`
      : missing;
  }
  return null;
}

function missingTarget(target: Target, { devices, links }: Names): string | null {
  const { kind, name } = target;
  switch (kind) {
    case "device":
      return devices.has(name) ? null : `there is no device ${name}`;
    case "link":
      return links.has(name) ? null : `there is no link ${name}`;
    case "interface": {
      const device = devices.get(target.of);
      // That its device is missing is another error.
      return !device || portsOf(device).has(name) ? null : `${target.of} has no interface ${name}`;
    }
    default:
      return null;
  }
}

const known = new WeakMap<Device, ReadonlySet<string>>();

/** The names of a device's interfaces. */
function portsOf(device: Device): ReadonlySet<string> {
  const found = known.get(device) ?? new Set(device.interfaces.map(({ name }) => name));
  known.set(device, found);
  return found;
}

function checkProfiles(plan: Plan, report: Report) {
  const known = new Set([...Object.keys(builtInProfiles), ...plan.profiles.map((p) => p.id)]);
  const bases = new Map(plan.profiles.map(({ id, base }) => [id, base]));
  for (const [i, profile] of plan.profiles.entries()) {
    if (profile.id in builtInProfiles) {
      report(["profiles", i, "id"], `${profile.id} is a built-in profile; choose another id`);
    }
    if (profile.base && !known.has(profile.base)) {
      report(["profiles", i, "base"], `there is no profile ${profile.base}`);
    }
    const wrong = wrongBases(profile.id, bases);
    if (wrong) report(["profiles", i, "base"], wrong);
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

/** The error in a profile's chain of bases; null if it is valid. */
function wrongBases(id: string, bases: ReadonlyMap<string, string | undefined>): string | null {
  const seen = new Set([id]);
  for (let base = bases.get(id); base && !(base in builtInProfiles); base = bases.get(base)) {
    if (seen.has(base)) return `the profile ${id} is its own base`;
    if (seen.size > LIMITS.bases)
      return `the profile ${id} has a chain of more than ${LIMITS.bases} bases; use a nearer base`;
    seen.add(base);
  }
  return null;
}

function checkLinks(plan: Plan, report: Report) {
  const linkOf = new Map<string, string>();
  const ports = new Map<string, Interface>();
  for (const { id, interfaces } of plan.devices)
    for (const port of interfaces) ports.set(`${id}/${port.name}`, port);
  for (const [i, link] of plan.links.entries()) {
    if (link.medium === "cable" && link.ends.length !== 2 && link.ends.length > 0) {
      report(["links", i, "ends"], `the cable ${link.id} has ${link.ends.length} ends; a cable has 2`);
    }
    if (link.hub !== undefined && link.medium !== "multipoint")
      report(["links", i, "hub"], `only a multipoint link has a hub; ${link.id} is a ${link.medium}`);
    else if (link.hub !== undefined && !link.ends.includes(link.hub))
      report(["links", i, "hub"], `${link.hub} is not an end of the link ${link.id}`);
    for (const [k, end] of link.ends.entries()) {
      const path = ["links", i, "ends", k];
      const port = ports.get(end);
      if (!port) continue;
      const earlier = linkOf.get(end);
      if (earlier !== undefined) report(path, `${end} is already an end of the link ${earlier}`);
      linkOf.set(end, link.id);
      if (port.kind === "loopback") report(path, `${end} is a loopback; a link cannot end there`);
    }
  }
}

function checkFlow(plan: Plan, i: number, report: Report) {
  const flow = plan.flows[i];
  const at = ["flows", i];
  const to = parseZonedAddress(flow.to)?.address ?? null;
  const source = flow.source ? parseAddress(flow.source) : null;
  if (to && source && to.family !== source.family) {
    report(
      [...at, "source"],
      `the source ${flow.source} and the destination ${flow.to} have different address families`,
    );
  }
  if (flow.expect?.verdict === "denied") {
    for (const key of ["carriers", "maxOutageMs"] as const)
      if (flow.expect[key] !== undefined)
        report([...at, "expect", key], "a flow that must be denied has no gateways and no outage; remove it");
  }
  // Without gateways in the plan they are derived, and only the computed network knows their names.
  if (plan.gateways.length === 0) return;
  for (const [k, id] of (flow.expect?.carriers ?? []).entries()) {
    if (!plan.gateways.some((gateway) => gateway.id === id)) {
      report([...at, "expect", "carriers", k], `there is no gateway ${id}`);
    }
  }
}

/** An error message if the element does not exist in the plan; otherwise null. */
export function missingElement(
  text: string,
  plan: Plan,
  devices: ReadonlyMap<string, Device> = new Map(plan.devices.map((device) => [device.id, device])),
): string | null {
  const element = parseElement(text);
  if (!element) {
    return `"${text.slice(0, 60)}" is not an element; write ${ELEMENT_FORMS}`;
  }
  if (element.kind === "link") {
    return plan.links.some((link) => link.id === element.id) ? null : `there is no link ${element.id}`;
  }
  if (element.kind === "direction") {
    const link = plan.links.find(({ id }) => id === element.link);
    if (!link) return `there is no link ${element.link}`;
    const joined = devicesOn(link).includes(element.device);
    return joined ? null : `the link ${element.link} has no end on a device ${element.device}`;
  }
  if (element.kind === "risk")
    return plan.risks.some((risk) => risk.id === element.id) ? null : `there is no risk ${element.id}`;
  if (element.kind === "site")
    return plan.devices.some(({ site }) => site === element.id)
      ? null
      : `no device is at a site ${element.id}`;
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
