import { type Address, type Prefix, parseAddress, parsePrefix } from "../address/index.ts";
import { onceFor } from "../collections/index.ts";
import { type Device, type MarkRule, type Plan, type Policy, parsePortRange } from "../plan/index.ts";
import { entriesOf } from "./entries.ts";
import type { Settled } from "./entry.ts";
import { compileFates, sameFates } from "./fates.ts";
import { compilePorts, type Ports } from "./interfaces.ts";
import { type Firsts, type Joined, joinLayouts, type Span } from "./joined.ts";
import { sortDevice } from "./layout.ts";
import {
  type DeviceLayout,
  type DeviceRecord,
  endsOf,
  type Network,
  type PolicyDefault,
  type PolicyRecord,
  type PolicyTableRecord,
  type Steered,
} from "./network.ts";
import { compilePairs } from "./pairs.ts";
import { profileOf } from "./profile.ts";
import { rewiredPorts } from "./rewired.ts";
import { compileVirtuals } from "./virtuals.ts";
import { compileWatches } from "./watches.ts";

/** What a compiled network keeps for the next one. */
interface CompileCache {
  readonly ports: Ports;
  readonly vrfs: readonly string[][];
  readonly joined: Joined;
}

const kept = new WeakMap<Network, CompileCache>();

/**
 * Compiles a plan. The plan must have been read by `readPlan`: its references hold. Time O(n log n).
 * `like` is the network of the plan that this one was edited from: what the edit left alone is taken over
 * from it, and the outcome is the same as without.
 */
export function compile(plan: Plan, like?: Network): Network {
  const vrfs = plan.devices.map(vrfsOf);
  const old = like && sameFrame(like.plan, plan) ? kept.get(like) : undefined;
  const sameAttachments = old && like && sameAttachment(like.plan, plan, old.vrfs, vrfs);
  const ports = sameAttachments ? old.ports : compilePorts(plan, vrfs);
  /** The network before, where interfaces and links are the very same. */
  const attached = like && sameAttachments ? like : null;
  const isTouched = old && like ? touchedBy(like.plan, old.ports, plan, ports) : null;
  const watches = compileWatches(plan, ports, vrfs);
  const layouts: DeviceLayout[] = [];
  const settings: Settings[] = [];
  const firsts: Firsts[] = [];
  let next: Firsts = { firstInterface: 0, firstWatch: 0 };
  for (const [d, device] of plan.devices.entries()) {
    // What a device is and does rests on its own text and the interfaces' numbers.
    const settled =
      attached && device === attached.plan.devices[d]
        ? attached.devices[d]
        : settingsOf(plan, device, vrfs[d], ports);
    const after = {
      firstInterface: next.firstInterface + device.interfaces.length,
      firstWatch: next.firstWatch + device.watches.length,
    };
    const tables = settled.vrfs.length + settled.policyTables.length;
    layouts.push(
      like && isTouched && !isTouched[d]
        ? like.layouts[d]
        : sortDevice(
            entriesOf(plan, device, placed(settled, next, after.firstInterface), ports),
            tables,
            next.firstInterface,
            ports,
          ),
    );
    settings.push(settled);
    firsts.push(next);
    next = after;
  }
  firsts.push(next);
  const joined = joinLayouts(
    layouts,
    firsts,
    ports,
    old && like
      ? { layouts: like.layouts, joined: old.joined, firsts: like.devices, samePorts: attached !== null }
      : null,
  );
  const { candidates, groups, spans } = joined;
  const watchOf = (d: number, id: string) =>
    firsts[d].firstWatch + plan.devices[d].watches.findIndex((watch) => watch.id === id);
  const { virtuals, groups: virtualGroups } = compileVirtuals(plan, ports, watchOf);
  const devices = settings.map((settled, d) => recordOf(d, settled, firsts, spans[d]));
  const network: Network = {
    plan,
    devices,
    deviceIndex: new Map(devices.map((device) => [device.id, device.index])),
    interfaces: ports.interfaces,
    interfaceIndex: ports.interfaceIndex,
    addresses: ports.addresses,
    links: ports.links,
    tunnels: ports.tunnels,
    bundles: ports.bundles,
    virtuals,
    virtualGroups,
    ...compilePairs(plan, ports, watchOf),
    fates:
      attached && sameFates(attached.plan, plan) ? attached.fates : compileFates(plan, ports.interfaceIndex),
    watches,
    candidates,
    groups,
    layouts,
    announced: plan.devices.flatMap((device) =>
      (device.announces ?? []).map((text) => parsePrefix(text) as Prefix),
    ),
  };
  kept.set(network, { ports, vrfs, joined });
  return network;
}

/** What a device is and does, with the numbers of its interfaces and watches. */
function placed(
  { role, profile, forwards, vrfs, policyTables }: Settings,
  { firstInterface, firstWatch }: Firsts,
  endInterface: number,
): Settled {
  return { role, profile, forwards, vrfs, policyTables, firstInterface, endInterface, firstWatch };
}

/** A device with the numbers of its parts. */
function recordOf(
  index: number,
  settings: Settings,
  firsts: readonly Firsts[],
  { firstCandidate, endCandidate, firstGroup, endGroup }: Span,
): DeviceRecord {
  const { firstInterface, firstWatch } = firsts[index];
  const { firstInterface: endInterface, firstWatch: endWatch } = firsts[index + 1];
  return {
    ...settings,
    index,
    firstInterface,
    endInterface,
    firstWatch,
    endWatch,
    firstCandidate,
    endCandidate,
    firstGroup,
    endGroup,
  };
}

type Settings = Omit<DeviceRecord, "index" | keyof Span | keyof Firsts | "endInterface" | "endWatch">;

/** What a device is and does whatever its routes: its role, profile, VRFs, policy and translations. */
function settingsOf(plan: Plan, device: Device, vrfs: readonly string[], ports: Ports): Settings {
  const { id: profileId, profile } = profileOf(plan, device);
  const onByDefault = device.role !== "host";
  return {
    id: device.id,
    label: device.label ?? device.id,
    role: device.role,
    outline: device.outline === true,
    profile,
    profileId,
    forwards: { 4: device.forwarding?.ipv4 ?? onByDefault, 6: device.forwarding?.ipv6 ?? onByDefault },
    vrfs,
    policyTables: compilePolicyTables(device, vrfs, ports),
    policy: device.policy ? compilePolicy(device.policy, profile) : null,
    sourceNat: device.sourceNat.map((nat) => ({
      out: ports.interfaceIndex.get(`${device.id}/${nat.out}`) as number,
      from: nat.from ? nat.from.map((text) => parsePrefix(text) as Prefix) : null,
      to: nat.to === "interface" ? null : parseAddress(nat.to),
    })),
    destinationNat: (device.destNat ?? []).map((nat) => ({
      incoming: new Set(
        [nat.in].flat().map((name) => ports.interfaceIndex.get(`${device.id}/${name}`) as number),
      ),
      to: parseAddress(nat.to) as Address,
      protocol: nat.protocol ?? null,
      port: nat.port ?? null,
      via: parseAddress(nat.via) as Address,
      viaPort: nat.viaPort ?? nat.port ?? null,
    })),
    marks: (device.marks ?? []).map((mark) => ({ set: mark.set, ...steered(device, mark, ports) })),
  };
}

/** Whether two plans have the same links and profiles, and devices of the same ids in the same order. */
function sameFrame(a: Plan, b: Plan): boolean {
  return (
    a.links === b.links &&
    a.assume?.unlinked === b.assume?.unlinked &&
    a.assume?.hosts === b.assume?.hosts &&
    a.profiles === b.profiles &&
    a.devices.length === b.devices.length &&
    a.devices.every(({ id }, d) => id === b.devices[d].id)
  );
}

/**
 * 1 for each device whose candidates may be others than in a plan of the same frame: those that were edited and, where
 * interfaces are others, those on a link with one that is and those whose tunnels may have another far end.
 */
function touchedBy(before: Plan, old: Ports, after: Plan, now: Ports): Uint8Array {
  const touched = Uint8Array.from(after.devices, (device, d) => Number(device !== before.devices[d]));
  if (old === now) return touched;
  const edited = touched.slice();
  const rewired = after.devices.map((device, d) => edited[d] && rewiredPorts(before.devices[d], device));
  for (const { interfaces, links, tunnels } of [old, now]) {
    for (const { interface: i } of tunnels) touched[interfaces.device[i]] = 1;
    for (let i = 0; i < interfaces.count; i++) {
      const d = interfaces.device[i];
      if (!edited[d] || interfaces.link[i] < 0) continue;
      const ports = rewired[d];
      if (ports && !ports.has(interfaces.names[i])) continue;
      for (const end of endsOf(links, interfaces.link[i])) touched[interfaces.device[end]] = 1;
    }
  }
  return touched;
}

/** Whether two plans of one frame have the same interfaces in the same VRFs, whatever their routes. */
function sameAttachment(
  a: Plan,
  b: Plan,
  vrfsOfA: readonly string[][],
  vrfsOfB: readonly string[][],
): boolean {
  return a.devices.every((one, d) => {
    const other = b.devices[d];
    if (one === other) return true;
    return (
      one.role === other.role &&
      one.interfaces === other.interfaces &&
      one.announces === other.announces &&
      vrfsOfA[d].join() === vrfsOfB[d].join()
    );
  });
}

/** The VRFs that a device's interfaces and routes name, "main" first. */
const vrfsOf = onceFor((device: Device): string[] => {
  const vrfs = new Set(["main"]);
  for (const entry of device.interfaces) vrfs.add(entry.vrf ?? "main");
  for (const route of [...device.routes, ...device.learned]) vrfs.add(route.vrf ?? "main");
  return [...vrfs];
});

function compilePolicyTables(device: Device, vrfs: readonly string[], ports: Ports): PolicyTableRecord[] {
  return device.policyTables.map((table, i) => {
    const match = steered(device, table.match, ports);
    const [first] = match.incoming ?? [];
    return {
      name: table.name,
      table: vrfs.length + i,
      vrf: first === undefined ? 0 : ports.interfaces.vrf[first],
      overlay: table.lookup === "overlay",
      mark: table.match.mark ?? null,
      ...match,
    };
  });
}

/** What a packet must be like; an empty list matches everything, as one that is not there. */
function steered(device: Device, match: Omit<MarkRule, "set">, { interfaceIndex }: Ports): Steered {
  const prefixes = (texts: readonly string[] | undefined) =>
    texts?.length ? texts.map((text) => parsePrefix(text) as Prefix) : null;
  const range = match.port ? parsePortRange(match.port) : null;
  return {
    incoming: match.in?.length
      ? new Set(match.in.map((name) => interfaceIndex.get(`${device.id}/${name}`) as number))
      : null,
    from: prefixes(match.from),
    to: prefixes(match.to),
    protocol: match.protocol ?? null,
    firstPort: range?.first ?? 0,
    lastPort: range?.last ?? 0,
  };
}

function compilePolicy(
  policy: Policy,
  profile: { betweenZones: "allow" | "deny"; withinZone: "allow" | "deny" },
): PolicyRecord {
  const prefixes = (texts: readonly string[] | undefined) =>
    (texts ?? []).map((text) => parsePrefix(text) as Prefix);
  return {
    trust: new Map((policy.trust ?? []).map((zone, place) => [zone, place])),
    betweenZones: policyDefault(policy.default, profile.betweenZones),
    withinZone: policyDefault(policy.sameZone, profile.withinZone),
    rules: policy.rules.map((rule) => {
      const ports = rule.port ? parsePortRange(rule.port) : null;
      return {
        from: rule.from?.length ? new Set(rule.from) : null,
        to: rule.to?.length ? new Set(rule.to) : null,
        allow: rule.action === "allow",
        source: prefixes(rule.source),
        destination: prefixes(rule.destination),
        protocol: rule.protocol ?? null,
        firstPort: ports?.first ?? 0,
        lastPort: ports?.last ?? 0,
      };
    }),
  };
}

function policyDefault(own: "allow" | "deny" | undefined, ofProfile: "allow" | "deny"): PolicyDefault {
  return { verdict: own ?? ofProfile, ofProfile: own === undefined };
}
