import { type CopyBytes, Marks, onceFor, sliced } from "../collections/index.ts";
import { type ElementNumber, elementParts, expandElements } from "./elements.ts";
import { type BundleRecord, endsOf, mediumCodes, type Network } from "./network.ts";
import { inUse, type Roles } from "./roles.ts";

/** The actual condition at one moment by rules 2.1 to 2.5, 15 and 16, independent of the devices' beliefs. Every array
 * holds one byte per item, 1 for true. */
export interface Physical {
  readonly network: Network;
  /** Failed elements, ascending. */
  readonly failed: readonly ElementNumber[];
  /** The same with what fails together taken apart. */
  readonly struck: readonly ElementNumber[];
  readonly deviceAlive: Uint8Array;
  readonly linkAlive: Uint8Array;
  /** Interfaces that are enabled and have not failed, nor has their device. */
  readonly admitted: Uint8Array;
  /** Those that have carrier besides. */
  readonly carrier: Uint8Array;
  /** Those that could take a packet in now: with carrier, reached by their link, and not left to the other one of a pair. */
  readonly interfaceAlive: Uint8Array;
  /** Interfaces that receive nothing over their link but can still send (rule 2.6); null without any. */
  readonly deaf: Uint8Array | null;
  /** Tagged interfaces whose frames end at a dead link. */
  readonly cut: Uint8Array;
  /** The condition of each tunnel's underlay, as bits of `tunnelBits` (rule 2.5). */
  readonly tunnelPasses: Uint8Array;
  readonly roles: Roles;
  /** A superset of the interfaces whose carrier differs from the state with nothing failed. */
  readonly changedCarrier: readonly number[];
}

/** Bits for a tunnel's underlay: its outer packets arrive; those of both ends arrive; they would enter the tunnel
 * itself. */
export const tunnelBits = { sends: 1, bothWays: 2, throughItself: 4 } as const;

const passing = tunnelBits.sends | tunnelBits.bothWays;

/** Every tunnel's underlay taken to deliver both ways. */
export function tunnelsPassing(network: Network): Uint8Array {
  return new Uint8Array(network.tunnels.length).fill(passing);
}

interface SharedParts extends Pick<Physical, "deviceAlive" | "linkAlive" | "carrier" | "cut"> {
  readonly enabled: Uint8Array;
}

const known = new WeakMap<Network["interfaces"], SharedParts>();

/**
 * What a network is with nothing failed; every scenario changes only what its failed elements touch. It rests on interfaces
 * and what joins them, and so is that of every network that has the very same ones.
 */
function untouchedOf(network: Network): SharedParts {
  let untouched = known.get(network.interfaces);
  if (!untouched) {
    untouched = settledUntouched(network);
    known.set(network.interfaces, untouched);
  }
  return untouched;
}

function settledUntouched(network: Network): SharedParts {
  const { enabled, count } = network.interfaces;
  const linkAlive = new Uint8Array(network.links.count).fill(1);
  for (const link of network.links.crossed) linkAlive[link] = 0;
  const now: LinkState = { network, enabled, linkAlive, tunnelPasses: tunnelsPassing(network), deaf: null };
  const carrier = new Uint8Array(count);
  const cut = new Uint8Array(count);
  const all = new Marks(count);
  for (let i = 0; i < count; i++) all.add(i);
  settleCarrier(now, carrier, cut, all);
  return { deviceAlive: new Uint8Array(network.devices.length).fill(1), linkAlive, enabled, carrier, cut };
}

/** What decides over an interface's carrier. */
interface LinkState extends Pick<Physical, "network" | "linkAlive" | "tunnelPasses" | "deaf"> {
  readonly enabled: Uint8Array;
}

/** The physical side of a state: failed elements and carrier. `copy` supplies the buffers. */
export function physicalState(
  network: Network,
  failed: readonly ElementNumber[],
  tunnelPasses: Uint8Array,
  roles: Roles,
  copy: CopyBytes = sliced,
): Physical {
  const base = untouchedOf(network);
  const expanded = expandElements(network, failed);
  const touched = touchedPorts(network.interfaces).empty();
  // With nothing failed all tunnels were taken to pass.
  for (let t = 0; t < tunnelPasses.length; t++)
    if (tunnelPasses[t] !== passing) touched.add(network.tunnels[t].interface);
  const hit = new Hit(network, base, touched, copy);
  for (const element of expanded) hit.strike(element);
  const { deviceAlive, enabled, deaf } = hit;
  let { linkAlive } = hit;
  let { carrier, cut } = base;
  if (touched.size) {
    carrier = copy(carrier);
    if (network.interfaces.tagged.size) cut = copy(cut);
    if (network.bundles.length && linkAlive === base.linkAlive) linkAlive = copy(linkAlive);
    settleCarrier({ network, enabled, linkAlive, tunnelPasses, deaf }, carrier, cut, touched);
  }
  const interfaceAlive = inUse(network, hearing(carrier, deaf), roles);
  return {
    network,
    failed,
    struck: expanded,
    deviceAlive,
    linkAlive,
    admitted: enabled,
    carrier,
    interfaceAlive,
    deaf,
    cut,
    tunnelPasses,
    roles,
    changedCarrier: touched.toArray(),
  };
}

/** Interfaces of those that have carrier which something reaches. */
export function hearing(carrier: Uint8Array, deaf: Uint8Array | null): Uint8Array {
  return deaf ? carrier.map((up, i) => up & (1 - deaf[i])) : carrier;
}

const touchedPorts = onceFor(({ count }: Network["interfaces"]) => new Marks(count));

/** Takes failed elements one after the other; what nothing failed of stays shared by all states. */
class Hit {
  deviceAlive: Uint8Array;
  linkAlive: Uint8Array;
  enabled: Uint8Array;
  deaf: Uint8Array | null = null;

  constructor(
    private readonly network: Network,
    private readonly base: SharedParts,
    /** Interfaces whose carrier has to be looked at anew. */
    private readonly touched: Marks,
    private readonly copy: CopyBytes,
  ) {
    this.deviceAlive = base.deviceAlive;
    this.linkAlive = base.linkAlive;
    this.enabled = base.enabled;
  }

  strike(element: ElementNumber) {
    const { kind, index } = elementParts(this.network, element);
    if (kind === "link") this.killLink(index);
    else if (kind === "interface") this.disable(index);
    else if (kind === "direction") this.deafen(index);
    else if (kind === "device") {
      if (this.deviceAlive === this.base.deviceAlive) this.deviceAlive = this.copy(this.deviceAlive);
      this.deviceAlive[index] = 0;
      const { firstInterface, endInterface } = this.network.devices[index];
      for (let i = firstInterface; i < endInterface; i++) this.disable(i);
    }
  }

  /** Nothing reaches the ends of a link on one device any more, given by the place of the first of them (rule 2.6). */
  private deafen(first: number) {
    const { links, interfaces } = this.network;
    const at = links.ends[first];
    const device = interfaces.device[at];
    const link = interfaces.link[at];
    const deaf = this.deaf ?? new Uint8Array(interfaces.count);
    this.deaf = deaf;
    const deafenOn = (one: number) => {
      const ends = endsOf(links, one).filter((end) => interfaces.device[end] === device);
      for (const end of ends) {
        deaf[end] = 1;
        for (const tagged of interfaces.tagged.get(end) ?? []) deaf[tagged] = 1;
      }
      this.touch(one);
      return ends.length > 0;
    };
    deafenOn(link);
    // Of what rides on it and ends elsewhere, one way is broken; which one is not known.
    for (const rider of links.riders.get(link) ?? []) if (!deafenOn(rider)) this.kill(rider);
  }

  private disable(i: number) {
    if (this.enabled === this.base.enabled) this.enabled = this.copy(this.enabled);
    this.enabled[i] = 0;
    this.touched.add(i);
    const link = this.network.interfaces.link[i];
    if (link < 0) return;
    this.touch(link);
    // A line that has lost an end carries none of those that ride on it.
    this.killRiders(link);
  }

  private killLink(link: number) {
    this.kill(link);
    this.killRiders(link);
  }

  private killRiders(link: number) {
    const riders = this.network.links.riders.get(link);
    if (riders) for (const rider of riders) this.kill(rider);
  }

  private kill(link: number) {
    if (this.linkAlive === this.base.linkAlive) this.linkAlive = this.copy(this.linkAlive);
    this.linkAlive[link] = 0;
    this.touch(link);
  }

  private touch(link: number) {
    const { links } = this.network;
    for (let e = links.endStart[link]; e < links.endStart[link + 1]; e++) this.touched.add(links.ends[e]);
  }
}

/**
 * Settles the carrier of interfaces, of the bundles that they belong to, and of those that are tagged on either; these are
 * touched too.
 */
function settleCarrier(now: LinkState, carrier: Uint8Array, cut: Uint8Array, touched: Marks) {
  const { network } = now;
  const { interfaces, bundles, links } = network;
  if (bundles.length === 0 && interfaces.tagged.size === 0) {
    touched.each((i) => {
      carrier[i] = Number(hasCarrier(now, i));
    });
    return;
  }
  const built = new Set<number>();
  const tagged = new Set<number>();
  for (const i of touched.toArray()) {
    if (interfaces.memberOf[i] >= 0) built.add(interfaces.memberOf[i]);
    if (interfaces.bundle[i] >= 0) built.add(interfaces.bundle[i]);
    else if (interfaces.parent[i] >= 0) tagged.add(i);
    else carrier[i] = Number(hasCarrier(now, i));
    for (const child of interfaces.tagged.get(i) ?? []) tagged.add(child);
  }
  // What passes in one direction is enough for its link to be alive.
  for (const b of built) {
    const link = interfaces.link[bundles[b].interface];
    if (link >= 0 && links.medium[link] === mediumCodes.bundle) now.linkAlive[link] = 0;
  }
  for (const b of built) {
    const { interface: i, members, minUp } = bundles[b];
    touched.add(i);
    for (const m of members) {
      carrier[m] = Number(hasCarrier(now, m));
      touched.add(m);
    }
    const up = members.filter((m) => carrier[m]).length;
    carrier[i] = Number(now.enabled[i] === 1 && up >= minUp);
    for (const child of interfaces.tagged.get(i) ?? []) tagged.add(child);
    const link = interfaces.link[i];
    if (link >= 0 && links.medium[link] === mediumCodes.bundle)
      now.linkAlive[link] |= Number(members.some((_, n) => memberPasses(now, bundles[b], n)));
  }
  for (const i of tagged) {
    const parent = interfaces.parent[i];
    touched.add(i);
    carrier[i] = Number(now.enabled[i] === 1 && carrier[parent] === 1);
    const link = interfaces.link[parent];
    cut[i] = Number(link >= 0 && !now.linkAlive[link]);
  }
}

/** Whether frames that leave by a member come out where its bundle leads to. */
function memberPasses(
  { network, enabled, linkAlive, deaf }: Omit<LinkState, "tunnelPasses">,
  bundle: BundleRecord,
  n: number,
): boolean {
  const m = bundle.members[n];
  const link = network.interfaces.link[m];
  if (!enabled[m]) return false;
  if (link < 0) return isOwnEnd(network, bundle);
  // Behind a link with one end the network is not modeled.
  return (
    linkAlive[link] === 1 && (bundle.blind[n] || bundle.leads[n].some((end) => enabled[end] && !deaf?.[end]))
  );
}

/** Whether a bundle is drawn by its own link, and its members by none. */
function isOwnEnd({ interfaces, links }: Network, { interface: i, members }: BundleRecord): boolean {
  const link = interfaces.link[i];
  return (
    link >= 0 && links.medium[link] !== mediumCodes.bundle && members.every((m) => interfaces.link[m] < 0)
  );
}

function hasCarrier(now: LinkState, i: number): boolean {
  const { network, enabled, linkAlive, tunnelPasses, deaf } = now;
  const { interfaces, links } = network;
  if (!enabled[i]) return false;
  if (interfaces.loopback[i]) return true;
  const link = interfaces.link[i];
  const tunnel = interfaces.tunnel[i];
  if (tunnel >= 0) {
    if (link >= 0 && !linkAlive[link]) return false;
    if (tunnelPasses[tunnel] & tunnelBits.throughItself) return false;
    return network.tunnels[tunnel].keepaliveMs === 0 || (tunnelPasses[tunnel] & tunnelBits.bothWays) !== 0;
  }
  const member = interfaces.memberOf[i];
  if (member >= 0) {
    const bundle = network.bundles[member];
    const n = bundle.members.indexOf(i);
    // Ends that assure each other know what passes; else the medium tells (rule 15.1).
    if (bundle.assured[n]) return !deaf?.[i] && memberPasses(now, bundle, n);
    if (link < 0) return isOwnEnd(network, bundle);
  }
  // What only carries tags need not be drawn.
  if (link < 0)
    return (
      interfaces.assumedUp[i] === 1 ||
      (interfaces.tagged.get(i) ?? []).some((child) => interfaces.link[child] >= 0)
    );
  const medium = links.medium[link];
  if (medium === mediumCodes.circuit) return true;
  if (!linkAlive[link]) return false;
  if (medium === mediumCodes.switch) return true;
  if (deaf?.[i]) return false;
  for (let e = links.endStart[link]; e < links.endStart[link + 1]; e++) {
    if (!enabled[links.ends[e]]) return false;
  }
  return true;
}

/** Whether none, all or some of the members that a device considers up pass traffic. */
export const memberBits = { none: 0, all: 1, some: 2 } as const;

const noBundles = new Uint8Array(0);

/** For each bundle, how its members that the device considers up pass traffic: `memberBits`. */
export function membersPassing(
  physical: Pick<Physical, "network" | "admitted" | "linkAlive" | "deaf">,
  carrierUp: Uint8Array,
): Uint8Array {
  const { network, admitted, linkAlive, deaf } = physical;
  if (network.bundles.length === 0) return noBundles;
  return Uint8Array.from(network.bundles, (bundle) => {
    const used = bundle.members.flatMap((m, n) => (carrierUp[m] ? [n] : []));
    const passes = used.filter((n) =>
      memberPasses({ network, enabled: admitted, linkAlive, deaf }, bundle, n),
    );
    if (passes.length === 0) return memberBits.none;
    return passes.length === used.length ? memberBits.all : memberBits.some;
  });
}
