import { type Device, type Link, type Plan, routeIdentity } from "../../core/plan/index.ts";
import { takeName } from "./names.ts";
import type { RebuiltPlan } from "./plan.ts";
import { withPlans } from "./plan-documents.ts";
import { readValidParts } from "./valid-parts.ts";

/** The device of a plan that facts speak of: by its id, else by its name; else an outline that owns one of its addresses. */
function sameDevice(plan: Plan, found: Device): Device | undefined {
  const own = new Set(
    found.interfaces.flatMap(({ addresses }) => addresses.map((text) => text.split("/")[0])),
  );
  return (
    plan.devices.find(({ id }) => id === found.id) ??
    plan.devices.find(
      ({ label }) => label !== undefined && label.toLowerCase() === (found.label ?? found.id).toLowerCase(),
    ) ??
    plan.devices.find(
      ({ outline, interfaces }) =>
        outline && interfaces.some(({ addresses }) => addresses.some((text) => own.has(text.split("/")[0]))),
    )
  );
}

/** New readings have precedence; values that readings do not contain (watches, notes, policy, the role) remain. */
function updated(old: Device, found: Device): Device {
  const known = new Map(old.routes.map((route) => [routeIdentity(route), route]));
  const fresh = new Map(found.interfaces.map((entry) => [entry.name, entry]));
  return {
    ...old,
    ...(old.outline && !found.outline ? { ...found, id: old.id, place: old.place, outline: undefined } : {}),
    interfaces: [
      ...old.interfaces.map((entry) => {
        const now = fresh.get(entry.name);
        return now ? { ...entry, ...now, zone: entry.zone ?? now.zone, note: entry.note ?? now.note } : entry;
      }),
      ...found.interfaces.filter(({ name }) => !old.interfaces.some((entry) => entry.name === name)),
    ],
    routes: found.routes.map((route) => {
      const before = known.get(routeIdentity(route));
      return before ? { ...before, ...route } : route;
    }),
    learned: found.learned,
    policyTables: found.policyTables.length > 0 ? found.policyTables : old.policyTables,
    sourceNat: found.sourceNat.length > 0 ? found.sourceNat : old.sourceNat,
  };
}

/** A plan updated with readings: existing devices are updated, others added, and links added between unconnected ends.
 * */
export function mergeInto(plan: Plan, rebuilt: RebuiltPlan) {
  return merge(plan, rebuilt, null);
}

/** A plan with some new devices of the readings and their links; existing items are unchanged. */
export function mergeNew(plan: Plan, rebuilt: RebuiltPlan, wanted: ReadonlySet<string>) {
  return merge(plan, rebuilt, wanted);
}

function merge(plan: Plan, { plan: read }: RebuiltPlan, wanted: ReadonlySet<string> | null) {
  const idIn = new Map<string, string>();
  const changed = new Map<string, Device>();
  const added: Device[] = [];
  const taken = new Set(plan.devices.map(({ id }) => id));
  for (const found of read.devices) {
    const old = sameDevice(plan, found);
    // An outline says less than what the plan has already.
    if (old && (found.outline || wanted)) idIn.set(found.id, old.id);
    else if (wanted && !wanted.has(found.id)) continue;
    else if (old) {
      idIn.set(found.id, old.id);
      changed.set(old.id, updated(old, found));
    } else {
      const id = takeName(found.id, taken);
      idIn.set(found.id, id);
      added.push({ ...found, id });
    }
  }
  const devices = [...plan.devices.map((device) => changed.get(device.id) ?? device), ...added];
  const links = [...plan.links, ...newLinks(plan, read.links, devices, idIn)];
  // What only documents have: it comes along where the plan has nothing of its name.
  const { document } = withPlans({ ...plan, devices: [], links: [] }, [
    { file: "", plan: { ...read, devices: [], links: [] } },
  ]);
  return readValidParts({ ...document, devices, links });
}

function newLinks(
  plan: Plan,
  links: readonly Link[],
  devices: readonly Device[],
  idIn: ReadonlyMap<string, string>,
): Link[] {
  const joined = new Set(plan.links.flatMap(({ ends }) => ends));
  const names = new Set(plan.links.map(({ id }) => id));
  const exists = (end: string) => {
    const slash = end.indexOf("/");
    return devices.some(
      ({ id, interfaces }) =>
        id === end.slice(0, slash) && interfaces.some(({ name }) => name === end.slice(slash + 1)),
    );
  };
  return links.flatMap((link) => {
    const ends = link.ends
      .map((end) => `${idIn.get(end.slice(0, end.indexOf("/")))}${end.slice(end.indexOf("/"))}`)
      .filter((end) => exists(end) && !joined.has(end));
    if (ends.length === 0 || (ends.length === 1 && link.ends.length > 1)) return [];
    return [
      {
        ...link,
        id: takeName(link.id, names),
        ends,
        medium: ends.length === 2 ? link.medium : ("switch" as const),
      },
    ];
  });
}
