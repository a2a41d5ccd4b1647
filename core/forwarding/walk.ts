import {
  type Address,
  containsAddress,
  formatAddress,
  hostPrefix,
  isGloballyRoutable,
  sameAddress,
} from "../address/index.ts";
import {
  actionCodes,
  addressesOf,
  type DeviceRecord,
  findNeighbour,
  type Network,
  ownersOf,
  ownInterface,
  type PolicyRecord,
  sourceCodes,
} from "../network/index.ts";
import { type NextHop, nextHopsOf } from "../routing/index.ts";
import { type Found, findRoute } from "./lookup.ts";
import type { Drop, DropCode, Hop, Packet, Protocol, Session, Walk } from "./packet.ts";
import { policyAllows } from "./policy.ts";
import { chooseSource } from "./source.ts";
import type { World } from "./world.ts";

/** Hops after which a packet is given up (rule 6.3). */
const HOP_LIMIT = 64;
/** Ways listed one by one. Past that every place is still visited once, so that the worst is never missed. */
const MAX_WALKS = 256;

/** Who sends what to whom. Devices by number; `source` null lets the sender choose (rule 6.1). */
export interface Question {
  readonly device: number;
  readonly vrf: number;
  readonly source: Address | null;
  readonly destination: Address;
  readonly protocol: Protocol;
  readonly port: number | null;
  /** Forces the first hop, as a probe pinned to an interface and next hop is sent (rule 9.3). */
  readonly pinned?: NextHop;
}

export interface Sending extends Question {
  /** For a reply: the way out that it answers. */
  readonly answers?: Walk;
}

/** The hops so far, the latest first: ways that part share what they have in common. */
interface Trail {
  readonly hop: Hop;
  /** The packet as it came to the hop's device. */
  readonly packet: Packet;
  readonly before: Trail | null;
  readonly length: number;
}

interface Place {
  device: number;
  vrf: number;
  in: number;
  packet: Packet;
  trail: Trail | null;
  /** The packet as it came in, before anything was done to it here. */
  arrived: Packet;
  sessions: readonly Session[];
}

type Somewhere = Omit<Place, "packet" | "arrived"> & { packet: Packet | null; arrived: Packet | null };

/** Every way that a packet can take from its sender (rules 6.1 to 6.5); several where routes share the load. */
export function walkPacket(world: World, sending: Sending): Walk[] {
  return new Walker(world, sending).run();
}

class Walker {
  private readonly walks: Walk[] = [];
  private readonly visited = new Set<string>();
  private readonly network: Network;
  /** Devices that the flow passed on its way out; null when this is that way. */
  private readonly passed: ReadonlySet<number> | null;

  constructor(
    private readonly world: World,
    private readonly sending: Sending,
  ) {
    this.network = world.state.network;
    this.passed = sending.answers ? new Set(sending.answers.hops.map((hop) => hop.device)) : null;
  }

  run(): Walk[] {
    const { device, vrf, source, destination, pinned } = this.sending;
    const record = this.network.devices[device];
    const nowhere: Somewhere = {
      device,
      vrf,
      in: -1,
      packet: null,
      arrived: null,
      trail: null,
      sessions: [],
    };
    if (!this.world.state.deviceAlive[device]) return [this.dropped(nowhere, "device-down")];
    if (source && record.role !== "internet" && !ownsSource(this.network, record, source)) {
      return [this.dropped(nowhere, "source-not-own", { address: source })];
    }
    const start = (own: Address): Place => {
      const packet = { source: own, destination, protocol: this.sending.protocol, port: this.sending.port };
      return { device, vrf, in: -1, packet, arrived: packet, trail: null, sessions: [] };
    };
    if (this.deliveredHere(record, vrf, destination)) {
      this.deliver(start(source ?? destination));
      return this.walks;
    }
    const found = pinned ? null : findRoute(this.world, record, vrf, -1, source, destination);
    if (!pinned && !found) {
      if (record.role === "internet") this.atInternet(start(source ?? destination));
      else
        this.end(
          this.dropped({ ...nowhere, packet: source ? start(source).packet : null }, "no-route", {
            address: destination,
          }),
        );
      return this.walks;
    }
    if (pinned) {
      const own = source ?? chooseSource(this.network, record, pinned.out, destination);
      if (!own) this.end(this.dropped(nowhere, "no-source", { out: pinned.out }));
      else this.send(start(own), record, hostPrefix(destination), -1, pinned);
      return this.walks;
    }
    this.follow(record, found as Found, (hop) => {
      const own = source ?? (hop ? chooseSource(this.network, record, hop.out, destination) : null);
      if (own) return start(own);
      if (hop) this.end(this.dropped(nowhere, "no-source", { out: hop.out }));
      return hop ? null : start(destination);
    });
    return this.walks;
  }

  /** A packet arrives at a device: rule 6.2, in its order. */
  private arrive(place: Place) {
    const record = this.network.devices[place.device];
    const { packet } = place;
    const circle = circleOf(place);
    if (circle || (place.trail?.length ?? 0) >= HOP_LIMIT) {
      const drop = this.dropped(place, "looped", { circle: circle ?? devicesOf(place.trail) });
      return this.end({ ...drop, result: "looped" });
    }
    if (this.walks.length >= MAX_WALKS) {
      const header = `${place.device}/${place.vrf} ${formatAddress(packet.source)} ${formatAddress(packet.destination)}`;
      if (this.visited.has(header)) return;
      this.visited.add(header);
    }

    if (!this.passesReturnPath(record, place))
      return this.end(this.dropped(place, "return-path", { address: packet.source }));
    const undone = this.undoTranslation(place);
    if (this.deliveredHere(record, undone.vrf, undone.packet.destination)) return this.deliver(undone);
    if (!record.forwards[packet.destination.family]) return this.end(this.dropped(undone, "forwarding-off"));
    const { source, destination } = undone.packet;
    const found = findRoute(this.world, record, undone.vrf, undone.in, source, destination);
    if (found) return this.follow(record, found, () => undone);
    if (record.role === "internet") return this.atInternet(undone);
    this.end(this.dropped(undone, "no-route", { address: destination }));
  }

  /** Rule 6.2, return-path check: the source must be reachable, by the way in where the check is strict. */
  private passesReturnPath(record: DeviceRecord, place: Place): boolean {
    const mode = record.profile.returnPath;
    if (mode === "off") return true;
    const found = findRoute(this.world, record, place.vrf, -1, null, place.packet.source);
    if (!found) return false;
    if (mode === "loose") return true;
    const tables = this.world.tablesOf(record.index);
    return found.candidates.some((c) =>
      nextHopsOf(this.network, tables, c).some((hop) => hop.out === place.in),
    );
  }

  /** Rule 6.6: a reply to a translated source gets the original back where the translation was made. */
  private undoTranslation(place: Place): Place {
    const session = this.sending.answers?.sessions.find(
      (s) => s.device === place.device && sameAddress(s.translated, place.packet.destination),
    );
    if (!session) return place;
    return { ...place, packet: { ...place.packet, destination: session.original } };
  }

  private deliveredHere(record: DeviceRecord, vrf: number, destination: Address): boolean {
    return ownInterface(this.network, this.world.state.interfaceUp, record.index, vrf, destination) >= 0;
  }

  private deliver(place: Place) {
    const { destination } = place.packet;
    const wanted = this.sending.answers;
    const sender = wanted?.hops[0]?.device;
    if (wanted && place.device !== sender)
      return this.end(this.dropped(place, "wrong-device", { address: destination }));
    if (wanted?.packet && !sameAddress(place.packet.source, wanted.packet.destination)) {
      return this.end(this.dropped(place, "no-state", { address: place.packet.source }));
    }
    const last = this.hop(place, hostPrefix(destination), -1, null, -1, null);
    this.end({ ...this.finished(place, hopsOf(onto(place, last))), result: "delivered" });
  }

  /** Rule 7.4: what no provider announces is answered, unless it is private or belongs to the plan. */
  private atInternet(place: Place) {
    const { destination } = place.packet;
    if (!isGloballyRoutable(destination)) {
      return this.end(this.dropped(place, "private-at-internet", { address: destination }));
    }
    const ours =
      this.network.announced.some((prefix) => containsAddress(prefix, destination)) ||
      ownersOf(this.network, destination).length > 0;
    if (ours) return this.end(this.dropped(place, "no-route", { address: destination }));
    this.deliver(place);
  }

  /** Takes every branch of a route. `placeFor` gives the packet's place, settled per next hop at the sender. */
  private follow(record: DeviceRecord, found: Found, placeFor: (hop: NextHop | null) => Place | null) {
    const { candidates } = this.network;
    const tables = this.world.tablesOf(record.index);
    let branches = 0;
    for (const c of found.candidates) {
      const action = candidates.action[c];
      const hops = action === actionCodes.forward ? nextHopsOf(this.network, tables, c) : [];
      for (const hop of hops) {
        const place = placeFor(hop);
        if (place) this.send(place, record, found.match, c, hop);
        branches++;
      }
      if (action === actionCodes.forward) continue;
      branches++;
      const place = placeFor(null);
      if (!place) continue;
      if (action === actionCodes.vrf) {
        const onward = this.hop(place, found.match, c, null, place.device, null);
        this.arriveInVrf(place, onward, candidates.toVrf[c]);
      } else {
        const last = this.hop(place, found.match, c, null, -1, null);
        const code = action === actionCodes.drop ? "discarded" : "rejected";
        this.end(this.dropped({ ...place, trail: onto(place, last) }, code, { ended: true }));
      }
    }
    // A route that leads nowhere is as good as none.
    const place = branches === 0 ? placeFor(null) : null;
    if (place) this.end(this.dropped(place, "no-route", { address: place.packet.destination }));
  }

  /** Rule 5.4: the packet is looked up again in another VRF of the same device. */
  private arriveInVrf(place: Place, onward: Hop, vrf: number) {
    this.arrive({ ...place, vrf, arrived: place.packet, trail: onto(place, onward) });
  }

  /** Policy between zones, source translation and neighbour (rule 6.2). */
  private send(place: Place, record: DeviceRecord, match: Hop["match"], c: number, hop: NextHop) {
    const { state } = this.world;
    const { interfaces, candidates } = this.network;
    if (record.policy && place.in >= 0) {
      const zones = this.zonesOf(place, hop.out);
      const denied = this.deniedBy(record, record.policy, zones, place.packet);
      if (denied) return this.end(this.dropped(place, denied, { zones, out: hop.out }));
    }

    const translated = this.translate(record, hop.out, place.packet);
    const packet = translated ? { ...place.packet, source: translated } : place.packet;
    const sessions = translated
      ? [...place.sessions, { device: record.index, original: place.packet.source, translated }]
      : place.sessions;

    const straight = hop.address === null;
    const connected = c >= 0 && candidates.source[c] === sourceCodes.connected;
    const wanted =
      hop.address ?? (connected || !interfaces.pointToPoint[hop.out] ? packet.destination : null);
    const neighbour = findNeighbour(state, hop.out, wanted, hop.peer);
    const here = translated ? { ...place, packet, sessions } : place;
    if (neighbour.contact !== "answers") {
      const stopped = this.hop(here, match, c, hop, -1, translated);
      const code: DropCode =
        neighbour.contact === "link-dead"
          ? "link-dead"
          : straight && wanted
            ? "host-not-listening"
            : "neighbour-silent";
      return this.end(
        this.dropped({ ...here, trail: onto(place, stopped) }, code, {
          address: wanted,
          out: hop.out,
          neighbour: neighbour.interface,
          ended: true,
        }),
      );
    }
    const next = interfaces.device[neighbour.interface];
    this.arrive({
      device: next,
      vrf: interfaces.vrf[neighbour.interface],
      in: neighbour.interface,
      packet,
      arrived: packet,
      trail: onto(place, this.hop(here, match, c, hop, next, translated)),
      sessions,
    });
  }

  private zonesOf(place: Place, out: number): [string | null, string | null] {
    const { zones } = this.network.interfaces;
    return [place.in < 0 ? null : zones[place.in], zones[out]];
  }

  /** The code under which a policy refuses a packet, or null where it passes (rules 6.2 and 6.6). */
  private deniedBy(
    record: DeviceRecord,
    policy: PolicyRecord,
    zones: [string | null, string | null],
    packet: Packet,
  ): DropCode | null {
    const reply = this.passed !== null;
    if (reply && record.profile.stateful && this.passed?.has(record.index)) return null;
    if (policyAllows(policy, zones[0], zones[1], packet)) return null;
    return reply && record.profile.stateful ? "no-state" : "policy-denied";
  }

  /** The source that translation puts in place, or null. Replies of a flow that passed are left alone. */
  private translate(record: DeviceRecord, out: number, packet: Packet): Address | null {
    if (this.passed?.has(record.index)) return null;
    for (const nat of record.sourceNat) {
      if (nat.out !== out) continue;
      if (nat.from && !nat.from.some((prefix) => containsAddress(prefix, packet.source))) continue;
      if (nat.to && nat.to.family !== packet.source.family) continue;
      const to = nat.to ?? addressesOf(this.network, out, packet.source.family)[0];
      return to && !sameAddress(to, packet.source) ? to : null;
    }
    return null;
  }

  private hop(
    place: Place,
    match: Hop["match"],
    candidate: number,
    nextHop: NextHop | null,
    to: number,
    translated: Address | null,
  ): Hop {
    return {
      device: place.device,
      vrf: place.vrf,
      in: place.in,
      match,
      candidate,
      out: nextHop?.out ?? -1,
      nextHop: nextHop?.address ?? null,
      to,
      translated,
    };
  }

  private finished(place: Somewhere, hops: Hop[]): Walk {
    return {
      result: "dropped",
      hops,
      drop: null,
      packet: place.packet,
      sessions: place.sessions,
      vrf: place.vrf,
    };
  }

  /** A walk that ends here; unless the last hop says already how (`ended`), one without a way on is added. */
  private dropped(
    place: Somewhere,
    code: DropCode,
    more: Partial<Omit<Drop, "code" | "device" | "packet">> & { ended?: boolean } = {},
  ): Walk {
    const { ended, ...told } = more;
    const drop: Drop = {
      code,
      device: place.device,
      packet: place.packet,
      address: null,
      out: -1,
      neighbour: -1,
      zones: null,
      circle: [],
      ...told,
    };
    const last: Hop = {
      device: place.device,
      vrf: place.vrf,
      in: place.in,
      match: null,
      candidate: -1,
      out: -1,
      nextHop: null,
      to: -1,
      translated: null,
    };
    const hops = hopsOf(place.trail);
    return { ...this.finished(place, ended ? hops : [...hops, last]), drop };
  }

  private end(walk: Walk) {
    this.walks.push(walk);
  }
}

function ownsSource(network: Network, record: DeviceRecord, source: Address): boolean {
  return ownersOf(network, source).some((i) => network.interfaces.device[i] === record.index);
}

function onto(place: Place, hop: Hop): Trail {
  return { hop, packet: place.arrived, before: place.trail, length: (place.trail?.length ?? 0) + 1 };
}

function hopsOf(trail: Trail | null): Hop[] {
  const hops = new Array<Hop>(trail?.length ?? 0);
  for (let at = trail; at; at = at.before) hops[at.length - 1] = at.hop;
  return hops;
}

function devicesOf(trail: Trail | null): number[] {
  return hopsOf(trail).map((hop) => hop.device);
}

/** The devices since the packet was here before, with the same header in the same VRF (rule 6.3); null for never. */
function circleOf(place: Place): number[] | null {
  for (let at = place.trail; at; at = at.before) {
    if (at.hop.device !== place.device || at.hop.vrf !== place.vrf) continue;
    const { source, destination } = at.packet;
    if (!sameAddress(source, place.packet.source) || !sameAddress(destination, place.packet.destination))
      continue;
    return devicesOf(place.trail).slice(at.length - 1);
  }
  return null;
}
