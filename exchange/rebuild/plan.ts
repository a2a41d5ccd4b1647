import { isIpv6LinkLocal, parseAddress } from "../../core/address/index.ts";
import type { Plan, PlanError } from "../../core/plan/index.ts";
import type { Readings } from "../readings.ts";
import { type DeviceDocument, deviceOf } from "./device.ts";
import { type InferredLink, inferLinks, subnetsOf } from "./links.ts";
import { idOf, takeName } from "./names.ts";
import { type Outline, outlinesOf } from "./outlines.ts";
import { withPlans } from "./plan-documents.ts";
import { readValidParts } from "./valid-parts.ts";

/** The result of readings: the plan, with the reasons for its links and outlines. */
export interface RebuiltPlan {
  plan: Plan;
  links: InferredLink[];
  outlines: Outline[];
  /** What contradicts the rest, and was left out. */
  leftOut: PlanError[];
}

export type RebuildOutcome = { ok: true; rebuilt: RebuiltPlan } | { ok: false; errors: PlanError[] };

/** Makes a plan from readings: devices, links with their reasons, and outlines of unread devices. */
export function rebuildPlan(readings: Readings, name: string): RebuildOutcome {
  const taken = new Set<string>();
  const wanted = linkLocalNextHops(readings);
  const devices = readings.devices
    .filter(({ facts }) => facts.interfaces.length > 0 || facts.routes.length > 0)
    .map((collector) => ({
      collector,
      document: deviceOf(collector, takeName(idOf(collector.name), taken), wanted),
    }));
  const links = inferLinks(devices, readings.cables);
  const { outlines, documents } = outlinesOf(devices, links);
  const all = [...devices.map(({ document }) => document), ...documents];
  joinAlone(all, links);
  const { document, conflicts } = withPlans(
    {
      ironFork: 1,
      name,
      // A plan in the input has its own assumptions.
      ...(readings.plans?.length ? {} : { assume: { unlinked: "up", hosts: "answer" } }),
      devices: all as object[],
      links: links.map(({ id, ends, because }) => ({
        id,
        medium: isCable(ends, all) ? "cable" : "switch",
        ends,
        ...(because.length > 0 ? { note: because.slice(0, 4).join("; ").slice(0, 2000) } : {}),
      })),
    },
    readings.plans ?? [],
  );
  const reading = readValidParts(document);
  return reading.ok
    ? {
        ok: true,
        rebuilt: { plan: reading.plan, links, outlines, leftOut: [...conflicts, ...reading.leftOut] },
      }
    : reading;
}

/** Link-local addresses that a route of some device leads to: those must be known on their interface. */
function linkLocalNextHops({ devices }: Readings): Set<string> {
  const wanted = new Set<string>();
  for (const { facts } of devices) {
    for (const { via } of facts.routes) {
      const address = via === null ? null : parseAddress(via);
      if (via !== null && address && isIpv6LinkLocal(address)) wanted.add(via);
    }
  }
  return wanted;
}

/** An interface with an address and no link would be down: it gets a link with a single end. */
function joinAlone(devices: readonly DeviceDocument[], links: InferredLink[]) {
  const joined = new Set(links.flatMap(({ ends }) => ends));
  const taken = new Set(links.map(({ id }) => id));
  for (const { id, interfaces } of devices) {
    for (const entry of interfaces) {
      const end = `${id}/${entry.name}`;
      if (joined.has(end) || entry.kind === "loopback" || entry.enabled === false) continue;
      const because =
        entry.addresses.length > 0
          ? `no neighbor is known in ${entry.addresses.join(", ")}`
          : "the network behind it is not modeled";
      links.push({
        id: takeName(idOf(`${id}-${entry.name}`), taken),
        ends: [end],
        because: [because],
        certain: false,
      });
    }
  }
}

/** Whether nothing can stand between two ends: neither others, nor what translates between unlike tags. */
function isCable(ends: readonly string[], devices: readonly DeviceDocument[]): boolean {
  if (ends.length !== 2 || ends.some((end) => isShared(end, devices))) return false;
  const [a, b] = ends.map((end) => entryAt(end, devices)?.vlan);
  return a === b;
}

function entryAt(end: string, devices: readonly DeviceDocument[]) {
  const slash = end.indexOf("/");
  return devices
    .find(({ id }) => id === end.slice(0, slash))
    ?.interfaces.find(({ name }) => name === end.slice(slash + 1));
}

/** Whether an end's subnet could contain more than two hosts: then the network between is unknown. */
function isShared(end: string, devices: readonly DeviceDocument[]): boolean {
  const entry = entryAt(end, devices);
  if (!entry || devices.some(({ id, outline }) => outline && end.startsWith(`${id}/`))) return false;
  return subnetsOf(entry).length === 0 && entry.addresses.length === 0;
}
