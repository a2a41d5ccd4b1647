import { type Plan, readPlan } from "../../core/plan/index.ts";
import type { Random } from "./random.ts";

/** A part of a document before it is read. */
// biome-ignore lint/suspicious/noExplicitAny: the schema checks this document when it is read.
type Loose = Record<string, any>;

interface Draft {
  devices: Loose[];
  links: Loose[];
  risks: Loose[];
  pairs: Loose[];
}

const media = ["cable", "switch", "circuit"] as const;

/**
 * The plan with what several share here and there (rules 14 to 17): virtual routers on its LANs, pairs, bundles, tagged
 * interfaces, links that ride on others, risks and sites.
 */
export function withShared(plan: Plan, random: Random): Plan {
  const draft = structuredClone(plan) as unknown as Draft;
  if (random.chance(0.5)) pairUp(draft, random);
  for (const link of [...draft.links]) {
    const between = link.ends.length === 2 && link.ends.every((end: string) => end.startsWith("r"));
    if (!between || link.id === "hb") continue;
    if (random.chance(0.3)) bundleUp(draft, link, random);
    else if (random.chance(0.25)) tagUp(draft, link, random);
  }
  for (const link of draft.links.filter(({ id }) => id.startsWith("lan")))
    if (random.chance(0.6)) shareLan(draft, link, random);
  shareFates(draft, random);
  const reading = readPlan(draft);
  if (!reading.ok) throw new Error(reading.errors.map((e) => `${e.path}: ${e.message}`).join("; "));
  return reading.plan;
}

const partsOf = (end: string) => end.split("/") as [string, string];

function portOf({ devices }: Draft, end: string): Loose {
  const [id, name] = partsOf(end);
  const device = devices.find((d) => d.id === id) as Loose;
  return device.interfaces.find((port: Loose) => port.name === name);
}

/** One router becomes two of a pair, which stand on all its links. */
function pairUp(draft: Draft, random: Random) {
  const router = random.pick(draft.devices.filter(({ role }) => role === "router"));
  const twin = structuredClone(router);
  twin.id = `${router.id}x`;
  for (const device of [router, twin])
    device.interfaces.push({ name: "beat", addresses: [`10.200.0.${device === router ? 1 : 2}/30`] });
  for (const link of draft.links) {
    const own = link.ends.filter((end: string) => partsOf(end)[0] === router.id);
    if (own.length === 0) continue;
    link.medium = "switch";
    link.ends.push(...own.map((end: string) => `${twin.id}/${partsOf(end)[1]}`));
  }
  draft.devices.push(twin);
  draft.links.push({
    id: "hb",
    medium: random.pick(["cable", "switch"]),
    ends: [`${router.id}/beat`, `${twin.id}/beat`],
  });
  const names = [...router.interfaces.slice(0, 2), ...router.watches].map((one: Loose) => one.name ?? one.id);
  draft.pairs.push({
    id: "two",
    members: [router.id, twin.id],
    active: random.pick([router.id, twin.id]),
    preempt: random.chance(0.5),
    heartbeats: ["hb"],
    monitor: names.filter((name: string) => name !== "beat" && random.chance(0.5)),
    syncStates: random.chance(0.5),
  });
}

/** A link becomes two, whose ends are bundles. */
function bundleUp(draft: Draft, link: Loose, random: Random) {
  for (const end of link.ends as string[]) {
    const [id, name] = partsOf(end);
    const device = draft.devices.find((d) => d.id === id) as Loose;
    Object.assign(portOf(draft, end), {
      kind: "bundle",
      members: [`${name}-a`, `${name}-b`],
      minUp: random.pick([1, 1, 2]),
      lacp: random.pick(["fast", "slow", "off"]),
    });
    device.interfaces.push({ name: `${name}-a` }, { name: `${name}-b` });
  }
  draft.links = draft.links.filter((one) => one !== link);
  for (const part of ["a", "b"])
    draft.links.push({
      id: `${link.id}-${part}`,
      medium: random.pick(media),
      ends: link.ends.map((end: string) => `${end}-${part}`),
    });
}

/** A link is led over tags of another. */
function tagUp(draft: Draft, link: Loose, random: Random) {
  for (const end of link.ends as string[]) {
    const [id, name] = partsOf(end);
    const device = draft.devices.find((d) => d.id === id) as Loose;
    device.interfaces.push({ name: `${name}-trunk` });
    Object.assign(portOf(draft, end), { parent: `${name}-trunk`, vlan: random.chance(0.9) ? 20 : 21 });
  }
  draft.links.push({
    id: `${link.id}-trunk`,
    medium: random.pick(media),
    ends: link.ends.map((end: string) => `${end}-trunk`),
  });
}

/** A second router stands on a LAN, and both on behalf of a virtual one, which is the host's gateway. */
function shareLan(draft: Draft, link: Loose, random: Random) {
  const own = (link.ends as string[]).filter((end) => end.startsWith("r"));
  const host = (link.ends as string[]).find((end) => end.startsWith("h"));
  const others = draft.devices.filter(
    ({ role, id }) => role === "router" && !own.some((end) => partsOf(end)[0] === id),
  );
  if (!host || others.length === 0 || own.length !== 1) return;
  const first = portOf(draft, own[0]);
  const [address, length] = first.addresses[0].split("/");
  const six = address.includes(":");
  const base = address.slice(0, address.lastIndexOf(six ? ":" : "."));
  const at = (n: number) => `${base}${six ? ":" : "."}${n}`;
  const other = random.pick(others);
  const second: Loose = { name: `also-${link.id}`, addresses: [`${at(3)}/${length}`] };
  other.interfaces.push(second);
  link.ends.push(`${other.id}/${second.name}`);
  const preempt = random.chance(0.7);
  for (const [device, port] of [
    [draft.devices.find((d) => d.id === partsOf(own[0])[0]) as Loose, first],
    [other, second],
  ] as const) {
    const tracked = device.interfaces.filter((one: Loose) => one !== port && one.addresses?.length);
    const track: Loose[] =
      tracked.length && random.chance(0.6)
        ? [{ interface: random.pick(tracked as Loose[]).name, lower: random.pick([10, 60]) }]
        : [];
    const watches = device.watches ?? [];
    if (watches.length && random.chance(0.5))
      track.push({ watch: random.pick(watches as Loose[]).id, lower: 40 });
    port.virtual = [{ id: 7, addresses: [at(9)], priority: random.pick([90, 100, 120]), preempt, track }];
    // A next hop that is the device itself, or the other one, by who is Active (rule 4.4).
    if (random.chance(0.3))
      device.routes.push({
        to: random.pick(six ? ["::/0", "2001:db8::/32"] : ["0.0.0.0/0", "10.0.0.0/8"]),
        via: at(9),
      });
  }
  const sender = draft.devices.find((d) => d.id === partsOf(host)[0]) as Loose;
  for (const route of sender.routes) if (route.via === address) route.via = at(9);
}

function shareFates(draft: Draft, random: Random) {
  for (const device of draft.devices) if (random.chance(0.7)) device.site = random.pick(["north", "south"]);
  draft.links.push({ id: "duct", ends: [] });
  for (const link of draft.links) if (link.id !== "duct" && random.chance(0.3)) link.over = ["duct"];
  if (!draft.links.some(({ over }) => over)) draft.links[0].over = ["duct"];
  const refs = [
    ...draft.links.map(({ id }) => `link:${id}`),
    ...draft.devices.map(({ id }) => `device:${id}`),
    ...draft.devices.flatMap(({ id, interfaces }) =>
      interfaces.map((port: Loose) => `interface:${id}/${port.name}`),
    ),
  ];
  draft.risks.push({ id: "together", of: [...new Set([random.pick(refs), random.pick(refs)])] });
}
