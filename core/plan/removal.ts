import type { Device, Interface } from "./device.ts";
import { differencePlans } from "./difference.ts";
import type { Change, Edit } from "./edit.ts";
import { devicesOn, parseEnd, sitesOf } from "./elements.ts";
import type { Outage, Plan } from "./plan.ts";
import { namedBy, rewritten, type Target } from "./reference-table.ts";
import type { Watch } from "./watch.ts";

/** The item to remove; an interface as "device/interface". */
export type Removal =
  | { device: string }
  | { interface: string }
  | { link: string }
  | { gateway: string }
  | { watch: string; of: string };

/** The edit that removes a device, interface, link, gateway or watch together with everything that requires it, as the
 * table of references defines. Null if the item does not exist. */
export function removalOf(plan: Plan, what: Removal): Edit | null {
  const target = targetOf(what);
  const named = target && titleOf(plan, target);
  if (!target || named === null) return null;
  const gone = new Gone(plan, target);
  const changes = differencePlans(plan, gone.rest);
  const along =
    target.kind === "device" || target.kind === "interface"
      ? otherItems(changes)
      : target.kind === "watch"
        ? detached(plan, gone)
        : "";
  return { label: `Remove ${named}${along}`, changes };
}

function targetOf(what: Removal): Target | null {
  if ("watch" in what) return { kind: "watch", of: what.of, name: what.watch };
  if ("interface" in what) {
    const end = parseEnd(what.interface);
    return end && { kind: "interface", of: end.device, name: end.name };
  }
  const [[kind, name]] = Object.entries(what);
  return { kind: kind as "device" | "link" | "gateway", name };
}

/** What a target is called; null where the plan does not have it. */
function titleOf(plan: Plan, target: Target): string | null {
  if ("of" in target) {
    const device = plan.devices.find(({ id }) => id === target.of);
    const isThere =
      target.kind === "watch"
        ? device?.watches.some(({ id }) => id === target.name)
        : device?.interfaces.some(({ name }) => name === target.name);
    if (!device || !isThere) return null;
    return `${target.kind === "watch" ? "the watch " : ""}${target.name} of ${device.label ?? device.id}`;
  }
  const collections = { device: plan.devices, link: plan.links, gateway: plan.gateways };
  const { kind, name } = target as { kind: keyof typeof collections; name: string };
  const item = [...collections[kind]].find(({ id }) => id === name);
  return item ? `${kind === "device" ? "" : `the ${kind} `}${item.label ?? name}` : null;
}

/** All that goes with one thing, and the plan that is left. */
class Gone {
  readonly rest: Plan;
  private readonly keys = new Set<string>();

  constructor(plan: Plan, first: Target) {
    this.add(first);
    let rest = plan;
    for (let before = 0; before < this.keys.size; ) {
      before = this.keys.size;
      rest = withFewer(
        plan,
        rewritten(plan, (text, reference, owner) => {
          const { targets } = namedBy(reference, text, owner);
          return targets.some((target) => this.has(target)) ? null : text;
        }),
      );
      for (const target of missingIn(plan, rest)) this.add(target);
    }
    this.rest = rest;
  }

  has(target: Target): boolean {
    return this.keys.has(keyOf(target));
  }

  private add(target: Target) {
    this.keys.add(keyOf(target));
  }
}

const keyOf = (target: Target) => `${target.kind} ${"of" in target ? target.of : ""} ${target.name}`;

/** What a plan has and the rest of it has no more. */
function missingIn(plan: Plan, rest: Plan): Target[] {
  const without = <T>(before: readonly T[], after: readonly T[], key: (item: T) => string) => {
    if (before === after) return [];
    const left = new Set(after.map(key));
    return before.map(key).filter((name) => !left.has(name));
  };
  const plain = (kind: "device" | "link" | "gateway" | "risk" | "pair") =>
    without<{ id: string }>(plan[`${kind}s`], rest[`${kind}s`], ({ id }) => id).map(
      (name): Target => ({ kind, name }),
    );
  const devices = new Map(rest.devices.map((device) => [device.id, device]));
  const within = plan.devices.flatMap((device): Target[] => {
    const left = devices.get(device.id);
    if (!left || left === device) return [];
    const named =
      (kind: "interface" | "watch") =>
      (name: string): Target => ({ kind, of: device.id, name });
    return [
      ...without(device.interfaces, left.interfaces, ({ name }) => name).map(named("interface")),
      ...without(device.watches, left.watches, ({ id }) => id).map(named("watch")),
    ];
  });
  const links = new Map(rest.links.map((link) => [link.id, link]));
  const joints = plan.links.flatMap((link) => {
    const left = links.get(link.id);
    if (!left || left === link) return [];
    const joined = devicesOn(left);
    return devicesOn(link).flatMap((of): Target[] =>
      joined.includes(of) ? [] : [{ kind: "joint", of, name: link.id }],
    );
  });
  const sites = new Set(sitesOf(rest));
  return [
    ...plain("device"),
    ...plain("link"),
    ...plain("gateway"),
    ...plain("risk"),
    ...plain("pair"),
    ...within,
    ...joints,
    ...sitesOf(plan).flatMap((name): Target[] => (sites.has(name) ? [] : [{ kind: "site", name }])),
    ...bareLinks(plan, links).map((name): Target => ({ kind: "link", name })),
  ];
}

/** Links without ends that carried only links that are gone. */
function bareLinks(plan: Plan, left: ReadonlyMap<string, unknown>): string[] {
  return plan.links.flatMap(({ id, ends }) => {
    if (ends.length > 0 || !left.has(id)) return [];
    const riders = plan.links.filter((rider) => rider.over?.includes(id));
    return riders.length > 0 && riders.every((rider) => !left.has(rider.id)) ? [id] : [];
  });
}

/** What counts the entries of a list follows the list; steps and outages in which nothing happens go. */
function withFewer(plan: Plan, rest: Plan): Plan {
  const known = new Set<object>([...plan.devices, ...plan.outages]);
  const devices = rest.devices.map((device) => (known.has(device) ? device : withCounts(device)));
  const outages = rest.outages.flatMap((outage) =>
    known.has(outage) ? [outage] : withoutEmptySteps(outage),
  );
  return { ...rest, devices, outages };
}

function withCounts(device: Device): Device {
  const port = (entry: Interface): Interface =>
    entry.minUp && entry.members && entry.minUp > entry.members.length
      ? { ...entry, minUp: entry.members.length }
      : entry;
  const watch = (entry: Watch): Watch =>
    entry.kind === "group" && typeof entry.need === "number" && entry.need > entry.of.length
      ? { ...entry, need: entry.of.length }
      : entry;
  return { ...device, interfaces: device.interfaces.map(port), watches: device.watches.map(watch) };
}

function withoutEmptySteps(outage: Outage): Outage[] {
  const steps = outage.steps.filter((step) =>
    [step.fail, step.shut, step.restore].some((refs) => refs?.length),
  );
  return steps.length > 0 ? [{ ...outage, steps }] : [];
}

/** The other removed items as a phrase: ", with 2 links and a flow". */
function otherItems(changes: readonly Change[]): string {
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

/** The routes that are withdrawn by a watch no more. */
function detached(plan: Plan, gone: Gone): string {
  const bound = plan.devices.flatMap(({ id, routes, policyTables }) =>
    [...routes, ...policyTables.flatMap((table) => table.routes)].filter(
      ({ watch }) => watch !== undefined && gone.has({ kind: "watch", of: id, name: watch }),
    ),
  ).length;
  if (bound === 0) return "";
  return ` and detach ${bound === 1 ? "a route" : `${bound} routes`}`;
}
