import { type Device, type Interface, type Link, type Plan, parseElement } from "../core/plan/index.ts";
import { wholeOf } from "./parts.ts";

/** What failures do to ports and links (rules 2, 10, 15.2 and 16), read off the plan alone. Ends are "device/interface". */
export interface Wiring {
  /** Links over which nothing passes. */
  readonly dead: ReadonlySet<string>;
  /** Ends whose own interface is down: disabled, failed, or with its device. */
  readonly down: ReadonlySet<string>;
  /** Ends without carrier; those that are down are among them. */
  readonly dark: ReadonlySet<string>;
  /** Ends that nothing passes, whether they have carrier or not. */
  readonly mute: ReadonlySet<string>;
  /** Ends that receive nothing but still send (rule 2.6). */
  readonly deaf: ReadonlySet<string>;
}

const endOf = (device: Device, port: Interface) => `${device.id}/${port.name}`;

/** The elements that a failed one takes along: what a risk names, the devices of a site; else itself. */
export function expandRef(plan: Plan, ref: string): string[] {
  const name = ref.slice(ref.indexOf(":") + 1);
  if (ref.startsWith("risk:")) {
    const risk = plan.risks.find(({ id }) => id === name);
    return (risk?.of ?? []).flatMap((one) => expandRef(plan, one));
  }
  if (ref.startsWith("site:"))
    return plan.devices.filter(({ site }) => site === name).map(({ id }) => `device:${id}`);
  return [ref];
}

/** How the ports and links of a plan are while these elements have failed. */
export function wiringOf(plan: Plan, failed: Iterable<string>): Wiring {
  const expanded = new Set([...failed].flatMap((ref) => expandRef(plan, ref)));
  const ports = new Map<string, { device: Device; port: Interface }>();
  for (const device of plan.devices)
    for (const port of device.interfaces) ports.set(endOf(device, port), { device, port });
  const clouds = new Set(plan.devices.flatMap(({ id, role }) => (role === "cloud" ? [id] : [])));
  const linkOf = new Map<string, Link>();
  for (const link of plan.links) {
    const ofCloud = link.medium === "cable" && link.ends.some((end) => clouds.has(end.split("/")[0]));
    for (const end of link.ends) linkOf.set(end, ofCloud ? { ...link, medium: "switch" } : link);
  }

  const down = new Set(
    [...ports].flatMap(([end, { device, port }]) =>
      port.enabled === false || expanded.has(`interface:${end}`) || expanded.has(`device:${device.id}`)
        ? [end]
        : [],
    ),
  );
  const deaf = deafEnds(plan.links, expanded);
  const dead = deadLinks(plan.links, expanded, down);
  const dark = new Set<string>();
  const mute = new Set<string>();
  // What carries the tags may stand in another VRF of the device.
  const parentOf = (end: string) => {
    const { device, port } = ports.get(end) ?? {};
    if (!device || !port?.parent) return null;
    const whole = wholeOf(device.id);
    const all = plan.devices.filter(({ id }) => wholeOf(id) === whole);
    const owner = all.find(({ interfaces }) => interfaces.some(({ name }) => name === port.parent));
    return owner ? `${owner.id}/${port.parent}` : null;
  };
  const noCarrier = (end: string): boolean => {
    const link = linkOf.get(end);
    if (down.has(end)) return true;
    if (
      link?.medium === "cable" &&
      (dead.has(link.id) || deaf.has(end) || link.ends.some((one) => down.has(one)))
    )
      return true;
    if (link?.medium === "switch" && dead.has(link.id)) return true;
    const parent = parentOf(end);
    return parent !== null && noCarrier(parent);
  };
  for (const end of ports.keys()) {
    if (noCarrier(end)) dark.add(end);
    // Frames with a tag pass the interface that carries them: they die with it, whoever notices.
    const parent = parentOf(end);
    const under = parent === null ? undefined : linkOf.get(parent);
    if (parent !== null && (noCarrier(parent) || (under && dead.has(under.id)))) mute.add(end);
    if (parent !== null && deaf.has(parent)) deaf.add(end);
  }
  return { dead, down, dark, mute, deaf };
}

/** The ends of links, and of those that ride on them, that nothing reaches. */
function deafEnds(links: readonly Link[], struck: ReadonlySet<string>): Set<string> {
  const deaf = new Set<string>();
  for (const ref of struck) {
    const element = parseElement(ref);
    if (element?.kind !== "direction") continue;
    const ridden = new Set([element.link]);
    for (let size = -1; size !== ridden.size; ) {
      size = ridden.size;
      for (const { id, over } of links) if (over?.some((one) => ridden.has(one))) ridden.add(id);
    }
    for (const { id, ends } of links)
      if (ridden.has(id)) for (const end of ends) if (end.startsWith(`${element.device}/`)) deaf.add(end);
  }
  return deaf;
}

/** A link is dead when it has failed, when one that it rides on is, or when that one lost an end (rule 16.1). */
function deadLinks(
  links: readonly Link[],
  struck: ReadonlySet<string>,
  down: ReadonlySet<string>,
): Set<string> {
  const dead = new Set(links.flatMap(({ id }) => (struck.has(`link:${id}`) ? [id] : [])));
  const lost = new Set(links.flatMap(({ id, ends }) => (ends.some((end) => down.has(end)) ? [id] : [])));
  for (let size = -1; size !== dead.size; ) {
    size = dead.size;
    for (const { id, over } of links) if (over?.some((one) => dead.has(one) || lost.has(one))) dead.add(id);
  }
  return dead;
}

/** The differences between two wirings: ends and links that change. */
export interface Rewired {
  readonly killed: readonly string[];
  readonly revived: readonly string[];
  readonly muted: readonly string[];
  readonly heard: readonly string[];
  readonly deafened: readonly string[];
  readonly reached: readonly string[];
  readonly dark: readonly string[];
  readonly lit: readonly string[];
}

const only = (here: ReadonlySet<string>, there: ReadonlySet<string>) =>
  [...here].filter((one) => !there.has(one));

export function rewired(before: Wiring, after: Wiring): Rewired {
  return {
    killed: only(after.dead, before.dead),
    revived: only(before.dead, after.dead),
    muted: only(after.mute, before.mute),
    heard: only(before.mute, after.mute),
    deafened: only(after.deaf, before.deaf),
    reached: only(before.deaf, after.deaf),
    dark: only(after.dark, before.dark),
    lit: only(before.dark, after.dark),
  };
}
