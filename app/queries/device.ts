import {
  containsAddress,
  containsPrefix,
  formatAddress,
  formatPrefix,
  hostBitsSet,
  type Prefix,
  parseAddress,
  parseInterfaceAddress,
  prefixOf,
  samePrefix,
} from "../../core/address/index.ts";
import { formatRouteLine } from "../../core/authoring/index.ts";
import { addressesOf, type DeviceRecord, destinationOf, endsOf } from "../../core/network/index.ts";
import {
  type DeviceSettings,
  type Interface,
  type LearnedRoute,
  type PolicyTable,
  routeIdentity,
  type SourceNat,
  type StaticRoute,
  sameValue,
  settingsOf,
} from "../../core/plan/index.ts";
import {
  candidatesIn,
  type DeviceWatch,
  type RouteReport,
  routeReport,
  watchesOf,
} from "../../core/reports/index.ts";
import { chainOf, nextHopsOf, stateCodes } from "../../core/routes/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import type { World } from "../../core/walk/index.ts";
import { downText, routeText } from "../../core/words/index.ts";
import type { Looked } from "../search/looked.ts";
import { conditionsOf } from "./conditions.ts";
import { type PairView, pairOf, type VirtualView, virtualsOf } from "./sharing.ts";

export interface Attached {
  name: string;
  kind: string;
  addresses: string[];
  up: boolean;
  /** Why it is down; "" if it is up. */
  because: string;
  /** Who else is on the link. */
  neighbours: { device: string; label: string }[];
  link: string | null;
}

export interface CandidateView extends RouteReport {
  /** Position in the device's own static routes, or -1. */
  position: number;
  note: string;
  /** The interface that it leaves by in the end, where that is settled. */
  leavesBy: string | null;
  /** The routes that resolve the next hop, ending with the connected one; empty if it is on-link. */
  chain: string[];
  /** Compared with the approved revision; "" if unchanged. */
  draft: "" | "new" | "changed";
  gateway: number;
}

export interface Stack {
  to: string;
  length: number;
  /** How the stack stands to the address or prefix that is looked up. */
  match: "longest" | "holds" | "exact" | "inside" | "none" | null;
  candidates: CandidateView[];
}

/** What a table says of an address or a prefix. */
export interface LookupView {
  text: string;
  error: string | null;
  /** The active route with the longest match, or the one that covers all of a prefix; null if there is none. */
  answer: string | null;
  /** For a prefix: that it was masked, and how more specific routes divide it; else "". */
  note: string;
}

export interface DeviceAnswer {
  device: {
    id: string;
    label: string;
    role: string;
    site: string;
    profile: string;
    profileLabel: string;
    staticDistance: number | null;
    up: boolean;
  };
  vrf: string;
  vrfs: string[];
  attached: Attached[];
  stacks: Stack[];
  /** The tables of the device's other VRFs, and the policy tables of this one. */
  otherVrfs: { name: string; stacks: Stack[] }[];
  policyTables: { name: string; stacks: Stack[] }[];
  inUse: number;
  inUseHealthy: number;
  /** PageConditions the same conditions, before the draft. */
  inUseApproved: number;
  /** Routes that the draft takes away, as lines. */
  gone: string[];
  lookup: LookupView | null;
  routes: StaticRoute[];
  settings: DeviceSettings;
  interfaces: Interface[];
  watches: DeviceWatch[];
  /** Its virtual routers, and the pair that it belongs to. */
  virtuals: VirtualView[];
  pair: PairView | null;
  translations: SourceNat[];
  tables: PolicyTable[];
  learned: LearnedRoute[];
}

/** The network through one device's eyes. Null where the plan has no such device. */
export function deviceAnswer(
  model: Scenario,
  approved: Scenario,
  looked: Looked,
  asked: { device: string; vrf?: string; lookup?: string },
): DeviceAnswer | null {
  const { network, healthy } = model.engine;
  const d = network.deviceIndex.get(asked.device);
  if (d === undefined) return null;
  const conditions = conditionsOf(model, looked);
  const { world } = conditions.scenario;
  const record = network.devices[d];
  const device = model.plan.devices[d];
  const vrf = asked.vrf && record.vrfs.includes(asked.vrf) ? asked.vrf : "main";
  const table = record.vrfs.indexOf(vrf);
  const sought = soughtOf(asked.lookup);
  const before = approved.plan.devices.find((entry) => entry.id === asked.device);
  const draft = draftMarks(before?.routes ?? [], device.routes);
  const stacks = stacksOf(model, world, d, table, sought, draft);
  const found =
    stacks.find((stack) => stack.match === "exact" && isActive(stack)) ??
    stacks.find((stack) => stack.match === "longest");
  return {
    device: { ...headOf(record), site: device.site ?? "", up: world.state.deviceAlive[d] === 1 },
    vrf,
    vrfs: [...record.vrfs],
    attached: attachedOf(world, d, table),
    stacks,
    otherVrfs: record.vrfs.flatMap((name, other) =>
      other === table ? [] : [{ name, stacks: stacksOf(model, world, d, other, sought, draft) }],
    ),
    policyTables: record.policyTables
      .filter((own) => own.vrf === table)
      .map((own) => ({ name: own.name, stacks: stacksOf(model, world, d, own.table, sought, []) })),
    inUse: countInUse(world, d, table),
    inUseHealthy: countInUse(healthy.world, d, table),
    inUseApproved:
      approved === model ? countInUse(world, d, table) : countApproved(approved, looked, asked.device, vrf),
    gone: (before?.routes ?? [])
      .filter((route) => !device.routes.some((own) => routeIdentity(own) === routeIdentity(route)))
      .map((route) => formatRouteLine(route)),
    lookup: sought && {
      text: sought.text,
      error: sought.error,
      answer: found?.to ?? null,
      note: sought.prefix ? prefixNote(sought.prefix, sought.masked, found ?? null, stacks) : "",
    },
    routes: device.routes,
    settings: settingsOf(device),
    interfaces: device.interfaces,
    translations: device.sourceNat,
    tables: device.policyTables,
    learned: device.learned,
    virtuals: virtualsOf(world, d),
    pair: pairOf(world, d),
    watches: watchesOf(world, d),
  };
}

function headOf({ id, label, role, profileId, profile }: DeviceRecord) {
  return {
    id,
    label,
    role,
    profile: profileId,
    profileLabel: profile.label,
    staticDistance: profile.staticDistance,
  };
}

/** For each route of a device, how it stands to the approved ones. */
function draftMarks(before: readonly StaticRoute[], now: readonly StaticRoute[]): CandidateView["draft"][] {
  const known = new Map(before.map((route) => [routeIdentity(route), route]));
  return now.map((route) => {
    const old = known.get(routeIdentity(route));
    if (!old) return "new";
    return sameValue(old, route) ? "" : "changed";
  });
}

function countApproved(approved: Scenario, looked: Looked, device: string, vrf: string): number {
  const { network } = approved.engine;
  const d = network.deviceIndex.get(device);
  const table = d === undefined ? -1 : network.devices[d].vrfs.indexOf(vrf);
  return d === undefined || table < 0
    ? 0
    : countInUse(conditionsOf(approved, looked).scenario.world, d, table);
}

interface Sought {
  text: string;
  error: string | null;
  address: ReturnType<typeof parseAddress>;
  prefix: Prefix | null;
  /** Whether host bits of the prefix were cleared. */
  masked: boolean;
}

function soughtOf(text: string | undefined): Sought | null {
  const trimmed = text?.trim();
  if (!trimmed) return null;
  const address = parseAddress(trimmed);
  const given = address ? null : parseInterfaceAddress(trimmed);
  const prefix = given && prefixOf(given.address, given.length);
  const error =
    address || prefix
      ? null
      : `"${trimmed}" is neither an address nor a prefix, such as 172.20.33.7 or 172.20.32.0/20`;
  return { text: trimmed, error, address, prefix, masked: given !== null && hostBitsSet(given) };
}

const isActive = (stack: Stack) => stack.candidates.some(({ state }) => state === "in-use");

/** Where the active routes of a stack lead, as comparable text. */
function targetOf(stack: Stack): string {
  return stack.candidates
    .filter(({ state }) => state === "in-use")
    .map(
      ({ via, out, leavesBy, discard, toVrf }) => discard ?? toVrf ?? `${via ?? ""} ${out ?? leavesBy ?? ""}`,
    )
    .sort()
    .join(", ");
}

/** How a table treats a prefix: the more specific routes inside it, and whether they lead elsewhere. */
function prefixNote(prefix: Prefix, masked: boolean, cover: Stack | null, stacks: readonly Stack[]): string {
  const text = formatPrefix(prefix);
  const inside = stacks.filter((stack) => stack.match === "inside" && isActive(stack));
  const elsewhere = cover ? inside.filter((stack) => targetOf(stack) !== targetOf(cover)) : [];
  const count = `${inside.length} more specific ${inside.length === 1 ? "route" : "routes"}`;
  const listed = (list: readonly Stack[]) =>
    `${list
      .slice(0, 3)
      .map(({ to }) => to)
      .join(", ")}${list.length > 3 ? ` and ${list.length - 3} more` : ""}`;
  return [
    masked ? `Host bits cleared: ${text}.` : "",
    inside.length === 0
      ? cover
        ? `All of ${text} takes this route.`
        : ""
      : cover
        ? elsewhere.length > 0
          ? `Part of ${text} goes elsewhere: ${listed(elsewhere)}.`
          : `${count} inside, with the same next hop.`
        : `No route covers all of ${text}; ${count} inside: ${listed(inside)}.`,
  ]
    .filter(Boolean)
    .join(" ");
}

function stacksOf(
  model: Scenario,
  world: World,
  d: number,
  table: number,
  sought: Sought | null,
  draft: readonly CandidateView["draft"][],
): Stack[] {
  const { network } = world.state;
  const tables = world.tablesOf(d);
  const stacks: Stack[] = [];
  for (const c of candidatesIn(world, d, table)) {
    const destination = destinationOf(network, c);
    const last = stacks.at(-1);
    const view = candidateView(model, world, c);
    if (last?.to === view.to) {
      last.candidates.push(view);
      continue;
    }
    const match = !sought || sought.error ? null : matchOf(destination, sought);
    stacks.push({ to: view.to, length: destination.length, match, candidates: [view] });
  }
  const longest = stacks
    .filter((stack) => stack.match === "holds" && isActive(stack))
    .reduce<Stack | null>((best, stack) => (!best || stack.length > best.length ? stack : best), null);
  if (longest) longest.match = "longest";
  return stacks.sort((a, b) => a.length - b.length);

  function candidateView(own: Scenario, now: World, c: number): CandidateView {
    const report = routeReport(now, c);
    const hop = nextHopsOf(network, tables, c)[0];
    const usable = report.state === "in-use" || report.state === "standby";
    const recursive = network.candidates.out[c] < 0 && network.candidates.hasVia[c] === 1;
    const isStatic = report.source === "static" && network.candidates.table[c] < tables.device.vrfs.length;
    const position = isStatic ? network.candidates.order[c] : -1;
    return {
      ...report,
      position,
      note: position >= 0 ? (own.plan.devices[d].routes[position]?.note ?? "") : "",
      leavesBy: usable && hop ? network.interfaces.names[hop.out] : null,
      chain:
        recursive && usable && chainOf(network, tables, c).length > 1
          ? chainOf(network, tables, c).map((route) => routeText(network, route))
          : [],
      draft: draft[position] ?? "",
      gateway: hop ? own.gateways.findIndex((gateway) => gateway.interface === hop.out && !gateway.via) : -1,
    };
  }
}

/** How a destination relates to the address or prefix that is looked up. */
function matchOf(destination: Prefix, { address, prefix }: Sought): NonNullable<Stack["match"]> {
  if (address) return containsAddress(destination, address) ? "holds" : "none";
  if (!prefix) return "none";
  if (samePrefix(destination, prefix)) return "exact";
  if (containsPrefix(destination, prefix)) return "holds";
  return containsPrefix(prefix, destination) ? "inside" : "none";
}

function countInUse(world: World, d: number, table: number): number {
  const { network } = world.state;
  const tables = world.tablesOf(d);
  const { firstCandidate, endCandidate } = network.devices[d];
  let count = 0;
  for (let c = firstCandidate; c < endCandidate; c++) {
    if (network.candidates.table[c] !== table) continue;
    if (tables.state[c - firstCandidate] === stateCodes["in-use"]) count++;
  }
  return count;
}

function attachedOf(world: World, d: number, vrf: number): Attached[] {
  const { network } = world.state;
  const { interfaces, links, devices } = network;
  const record = devices[d];
  const list: Attached[] = [];
  for (let i = record.firstInterface; i < record.endInterface; i++) {
    if (interfaces.vrf[i] !== vrf) continue;
    const link = interfaces.link[i];
    const ends = link < 0 ? [] : Array.from(endsOf(links, link));
    const seen = new Set(ends.filter((end) => end !== i).map((end) => interfaces.device[end]));
    const up = world.state.interfaceUp[i] === 1;
    list.push({
      name: interfaces.names[i],
      kind: network.plan.devices[d].interfaces[i - record.firstInterface].kind ?? "ethernet",
      addresses: network.plan.devices[d].interfaces[i - record.firstInterface].addresses,
      up,
      because: up ? "" : downText(world.state, i),
      neighbours: [...seen].map((n) => ({ device: devices[n].id, label: devices[n].label })),
      link: link >= 0 && link < links.planned ? links.ids[link] : null,
    });
  }
  return list;
}

export function ownAddresses(model: Scenario, device: string): string[] {
  const { network } = model.engine;
  const d = network.deviceIndex.get(device);
  if (d === undefined) return [];
  const { firstInterface, endInterface } = network.devices[d];
  const list: string[] = [];
  for (let i = firstInterface; i < endInterface; i++)
    list.push(...addressesOf(network, i).map(formatAddress));
  return list;
}
