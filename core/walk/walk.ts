import { type Address, formatAddress, hostPrefix, isIpv6LinkLocal, sameAddress } from "../address/index.ts";
import {
  actionCodes,
  answersFor,
  assumedHostAt,
  type DeviceRecord,
  type EdgeNetwork,
  findNeighbour,
  memberBits,
  membersOf,
  type Network,
  ownersOf,
  ownInterface,
  sourceCodes,
  virtualAt,
} from "../network/index.ts";
import { type NextHop, nextHopsOf } from "../routes/index.ts";
import { type DropDetails, droppedAt, endedAt, hopAt, type PartialPlace } from "./endings.ts";
import { refusal } from "./flat/addresses.ts";
import {
  endsOfRoute,
  findRoute,
  type LookedAt,
  markOf,
  type RouteMatch,
  sameRoute,
  weightOf,
} from "./lookup.ts";
import type { DropCode, Hop, Packet, PolicyDecision, Protocol, Session, Walk } from "./packet.ts";
import { rulingOn, type Zones } from "./policy.ts";
import { proxyFor } from "./proxy.ts";
import { passesReturnPath } from "./return-path.ts";
import { chooseSource } from "./source.ts";
import { circleOf, hopsOf, onto, type Place } from "./trail.ts";
import { type NewSource, sentTo, translatedDestination, translatedSource } from "./translation.ts";
import type { World } from "./world.ts";

/** The hop limit that a packet starts with: each router that forwards takes one, so 63 of them pass (rule 6.3). */
export const HOP_LIMIT = 64;
/** Ways listed one by one. Past that every place is still visited once, so that the worst is never missed. */
export const MAX_WALKS = 256;

/** Who sends what to whom. Devices by number; `source` null lets the sender choose (rule 6.1). */
export interface Question {
  readonly device: number;
  readonly vrf: number;
  readonly source: Address | null;
  readonly destination: Address;
  readonly protocol: Protocol;
  readonly port: number | null;
  /** The interface on which a link-local destination or the answer to one is meant (RFC 4007; rule 6.1). */
  readonly zone?: number;
  /** Forces the first hop, as a probe pinned to an interface and next hop is sent (rule 9.3). */
  readonly pinned?: NextHop;
  /** Idle timeout of a session; by default that of its protocol (rule 18). */
  readonly sessionTimeoutMs?: number;
  /** The flow is expected to be denied: it is judged by whether a packet arrives. */
  readonly mustBeDenied?: true;
}

export interface Sending extends Question {
  /** For a reply: the way out that it answers. */
  readonly answers?: Walk;
  /** Of a reply of an assumed host: the interface that it comes in by first (rule 2.8). */
  readonly arrivesBy?: number;
  /** Of a reply: the devices that know the flow, where these are not those on the way out. */
  readonly knownBy?: ReadonlySet<number>;
  /** Marks a reply as an ICMP error, which has its own source address. */
  readonly isError?: true;
  /** Of a flow that was there before: who knows it (rule 18). */
  readonly established?: Established;
}

/** Who has state of a flow that was established before what failed, and how its source was translated there. */
export interface Established {
  readonly states: ReadonlySet<number>;
  readonly sessions: readonly Session[];
}

/** Every way that a packet can take from its sender (rules 6.1 to 6.5); several where routes share the load. */
export function walkPacket(world: World, sending: Sending): Walk[] {
  return new Walker(world, sending).run();
}

/** The session that a translated source begins. */
function sessionOf(
  { index }: DeviceRecord,
  original: Address,
  { address, ofExit }: NewSource,
  { out }: NextHop,
): Session {
  const session = { device: index, original, translated: address, end: "source" as const };
  return ofExit ? { ...session, exit: out } : session;
}

class Walker {
  private readonly walks: Walk[] = [];
  private readonly visited = new Set<string>();
  private readonly network: Network;
  /** Devices that the flow passed on its way out; null when this is that way. */
  private readonly passed: ReadonlySet<number> | null;
  /** A placeholder packet while the sender has no next hop to choose a source by. Never part of a result. */
  private readonly undecided: Packet;

  constructor(
    private readonly world: World,
    private readonly sending: Sending,
  ) {
    this.network = world.state.network;
    this.passed = sending.answers
      ? (sending.knownBy ?? new Set(sending.answers.hops.map((hop) => hop.device)))
      : null;
    const { source, destination, protocol, port } = sending;
    this.undecided = { source: source ?? destination, destination, protocol, port };
  }

  run(): Walk[] {
    const { device, vrf, source, destination, zone, arrivesBy } = this.sending;
    const record = this.network.devices[device];
    const nowhere = this.nowhere();
    if (arrivesBy !== undefined && source) {
      this.arrive({ ...this.start(source), in: arrivesBy });
      return this.walks;
    }
    if (!this.world.state.deviceAlive[device]) return [this.dropped(nowhere, "device-down")];
    if (source && record.role !== "internet" && !this.maySendFrom(record, source)) {
      const owner = this.ownedBy(record, source);
      return [this.dropped(nowhere, "source-not-own", { address: source, out: owner })];
    }
    if (this.deliveredHere(record, vrf, zone ?? -1, destination)) {
      this.deliver(this.start(source ?? destination));
      return this.walks;
    }
    const wayIn = this.wayInOf(record);
    if (this.sending.pinned) this.sendPinned(record, this.sending.pinned);
    else if (wayIn) this.sendPinned(record, wayIn);
    else if (zone !== undefined) this.sendPinned(record, { out: zone, address: null, peer: -1 });
    else if (isIpv6LinkLocal(destination)) {
      this.end(this.dropped(nowhere, "link-local", { address: destination }));
    } else this.sendByTables(record);
    return this.walks;
  }

  private nowhere(): PartialPlace {
    const { device, vrf } = this.sending;
    return { device, vrf, in: -1, packet: null, arrived: null, trail: null, sessions: [], share: 1 };
  }

  private start(own: Address): Place {
    const { device, vrf, destination, protocol, port } = this.sending;
    const packet = { source: own, destination, protocol, port };
    return { device, vrf, in: -1, packet, arrived: packet, trail: null, sessions: [], share: 1 };
  }

  /** What its own tables look at of the packet that a device sends. */
  private ownPacket(record: DeviceRecord, source: Address | null): LookedAt {
    const { destination, protocol, port } = this.sending;
    const packet = { source, destination, protocol, port, in: -1 };
    return { ...packet, mark: this.passed ? null : markOf(record, packet) };
  }

  private sendPinned(record: DeviceRecord, hop: NextHop) {
    const { destination } = this.sending;
    const { state } = this.world;
    const own = state.interfaceUp[hop.out]
      ? (this.sending.source ?? chooseSource(state, record, hop, destination))
      : null;
    if (!own) this.end(this.dropped(this.nowhere(), "no-source", { out: hop.out }));
    else this.send(this.start(own), record, hostPrefix(destination), -1, hop);
  }

  /** A packet that its sender's tables lead: where it chooses its source, tables that match by source are asked again (rule 6.1). */
  private sendByTables(record: DeviceRecord) {
    const { vrf, source, destination } = this.sending;
    const nowhere = this.nowhere();
    const found = findRoute(this.world, record, vrf, this.ownPacket(record, source));
    if (!found) {
      if (record.role === "internet") return this.atInternet(this.start(source ?? destination));
      const packet = source ? this.start(source).packet : null;
      const code = record.outline ? "beyond-outline" : "no-route";
      return this.end(this.dropped({ ...nowhere, packet }, code, { address: destination }));
    }
    if (source) return this.follow(record, found, () => this.start(source));
    const again = new Set<string>();
    const unsettled = this.ownPacket(record, null);
    const ask = (to: number) => findRoute(this.world, record, to, unsettled);
    this.follow(record, found, (next, share) => {
      const hop = next ?? endsOfRoute(this.world, record, found, ask)[0]?.hop;
      if (!hop) return { ...nowhere, packet: this.undecided, arrived: this.undecided, share: 1 };
      const own = chooseSource(this.world.state, record, hop, destination);
      if (!own) {
        this.end(this.dropped(nowhere, "no-source", { out: hop.out }));
        return null;
      }
      const settled = findRoute(this.world, record, vrf, this.ownPacket(record, own));
      if (!settled || sameRoute(settled, found)) return this.start(own);
      const key = formatAddress(own);
      if (!again.has(key)) {
        again.add(key);
        this.follow(record, settled, () => ({ ...this.start(own), share }));
      }
      return null;
    });
  }

  /** A packet arrives at a device: rule 6.2, in its order. */
  private arrive(place: Place) {
    const record = this.network.devices[place.device];
    const { packet } = place;
    const circle = circleOf(place);
    if (circle) return this.end({ ...this.dropped(place, "looped", { circle }), result: "looped" });
    if (this.walks.length >= MAX_WALKS) {
      const header = `${place.device}/${place.vrf}/${place.in} ${formatAddress(packet.source)} ${formatAddress(packet.destination)}`;
      if (this.visited.has(header)) return;
      this.visited.add(header);
    }

    const mark = this.passed ? null : markOf(record, { ...packet, in: place.in });
    const undone = this.translateDestination(this.undoTranslation(place), record);
    const { source, destination } = undone.packet;
    const ends = this.deliveredHere(record, undone.vrf, undone.in, destination);
    if (ends && !this.isAccepted(record, undone.vrf, destination))
      return this.end(this.dropped(undone, "virtual-not-accepted", { address: destination }));
    const looked = { ...undone.packet, in: undone.in, mark };
    const found = ends ? null : findRoute(this.world, record, undone.vrf, looked);
    if (!passesReturnPath(this.world, record, undone, found))
      return this.end(this.dropped(place, "return-path", { address: source }));
    if (ends) return this.deliver(undone);
    if (record.outline) return this.end(this.dropped(undone, "beyond-outline", { address: destination }));
    if (!record.forwards[destination.family]) return this.end(this.dropped(undone, "forwarding-off"));
    for (const address of [source, destination]) {
      if (isIpv6LinkLocal(address)) return this.end(this.dropped(undone, "link-local", { address }));
    }
    const wayIn = this.wayInOf(record);
    if (wayIn) return this.send(undone, record, hostPrefix(destination), -1, wayIn);
    if (!found && record.role === "internet") return this.atInternet(undone);
    if (!found) return this.end(this.dropped(undone, "no-route", { address: destination }));
    if ((place.trail?.sentOn ?? 0) >= HOP_LIMIT) return this.end(this.dropped(undone, "hop-limit"));
    this.follow(record, found, () => undone);
  }

  /** Rule 6.8: where a device answers by the way in, the interface and neighbour that the flow came by, while that is up. */
  private wayInOf({ index, profile }: DeviceRecord): NextHop | null {
    if (profile.replyBy !== "came-in" || !this.sending.answers) return null;
    const { hops } = this.sending.answers;
    const at = hops.findIndex((hop) => hop.device === index && hop.in >= 0);
    const before = hops[at - 1];
    if (at < 1 || !before || before.out < 0 || !this.world.state.interfaceUp[hops[at].in]) return null;
    return { out: hops[at].in, address: null, peer: before.out };
  }

  /** Rule 6.6: a reply to a translated source gets the original back where the translation was made. */
  private undoTranslation(place: Place): Place {
    const { answers, established } = this.sending;
    const known = answers ? [...answers.sessions, ...(established?.sessions ?? [])] : [];
    const session = known.find(
      (s) =>
        s.end === "source" &&
        s.device === place.device &&
        sameAddress(s.translated, place.packet.destination),
    );
    if (!session) return place;
    return { ...place, packet: { ...place.packet, destination: session.original } };
  }

  /** Rule 6.9: a new packet that arrives for an address that is translated goes on to where that leads. */
  private translateDestination(place: Place, record: DeviceRecord): Place {
    if (record.destinationNat.length === 0 || this.passed?.has(record.index)) return place;
    const { packet } = place;
    // Of a flow whose first packets it did not see, a reply over UDP alone counts as new.
    if (this.passed && packet.protocol !== "udp") return place;
    const before = this.sending.established?.sessions.find(
      (s) =>
        s.end === "destination" && s.device === record.index && sameAddress(s.original, packet.destination),
    );
    const anew = translatedDestination(record, place.in, packet);
    const to = before ? before.translated : anew?.address;
    if (!to) return place;
    const { destination: original } = packet;
    const session = { device: record.index, original, translated: to, end: "destination" as const };
    return {
      ...place,
      packet: { ...packet, destination: to, port: anew?.port ?? packet.port },
      sessions: [...place.sessions, session],
    };
  }

  /** Whether the device accepts a packet; a link-local address only on its interface. */
  private deliveredHere(record: DeviceRecord, vrf: number, at: number, destination: Address): boolean {
    const { interfaceUp } = this.world.state;
    if (isIpv6LinkLocal(destination)) {
      return at >= 0 && interfaceUp[at] === 1 && answersFor(this.network, at, destination);
    }
    if (ownInterface(this.network, interfaceUp, record.index, vrf, destination) >= 0) return true;
    return virtualAt(this.network, this.world.state.roles, record.index, vrf, destination) >= 0;
  }

  /** Rule 14.1: packets to a virtual address are accepted by its owner, and by other routers if configured. */
  private isAccepted(record: DeviceRecord, vrf: number, destination: Address): boolean {
    const { roles, interfaceUp } = this.world.state;
    if (ownInterface(this.network, interfaceUp, record.index, vrf, destination) >= 0) return true;
    const v = virtualAt(this.network, roles, record.index, vrf, destination);
    return v < 0 || this.network.virtuals[v].accept;
  }

  /** Rule 6.1: a source that is given must be the sender's own and on an up interface. */
  private maySendFrom(record: DeviceRecord, source: Address): boolean {
    const { roles, interfaceUp } = this.world.state;
    return (
      ownInterface(this.network, interfaceUp, record.index, -1, source) >= 0 ||
      virtualAt(this.network, roles, record.index, -1, source) >= 0
    );
  }

  /** An interface of the device that owns an address, up or not; -1 for none. */
  private ownedBy(record: DeviceRecord, address: Address): number {
    const { interfaces } = this.network;
    return ownersOf(this.network, address).find((i) => interfaces.device[i] === record.index) ?? -1;
  }

  private deliver(place: Place) {
    const { destination } = place.packet;
    const wanted = this.sending.answers;
    const sender = wanted?.hops[0]?.device;
    if (wanted && place.device !== sender)
      return this.end(this.dropped(place, "wrong-device", { address: destination }));
    if (
      wanted &&
      !this.sending.isError &&
      !sameAddress(place.packet.source, sentTo(wanted, place.packet.source))
    ) {
      return this.end(this.dropped(place, "no-state", { address: place.packet.source }));
    }
    const last = hopAt(place, hostPrefix(destination), -1, null, -1, null);
    this.end({ ...endedAt(this.withoutStandIn(place), hopsOf(onto(place, last))), result: "delivered" });
  }

  /** Rule 2.8: a host that the plan does not draw takes every packet. To a sender it never wrote to it answers nothing. */
  private deliverToAssumed(trail: Place["trail"], here: Place, assumed: EdgeNetwork) {
    if (this.sending.answers)
      return this.end(
        this.dropped({ ...here, trail }, "wrong-device", { address: here.packet.destination, ended: true }),
      );
    this.end({ ...endedAt(this.withoutStandIn(here), hopsOf(trail)), result: "delivered", vrf: -1, assumed });
  }

  /** Rule 7.4: what no provider announces is answered, unless it is private or belongs to the plan. */
  private atInternet(place: Place) {
    const { destination } = place.packet;
    const refused = refusal(this.network, destination);
    if (refused) return this.end(this.dropped(place, refused, { address: destination }));
    this.deliver(place);
  }

  /** Takes every branch of a route. `placeFor` gives the packet's place, settled per next hop at the sender. */
  private follow(
    record: DeviceRecord,
    found: RouteMatch,
    placeFor: (hop: NextHop | null, share: number) => Place | null,
  ) {
    const { candidates } = this.network;
    const weights = found.candidates.map((c) => weightOf(this.network, c));
    const sum = weights.reduce((total, weight) => total + weight, 0);
    const placeWith = (hop: NextHop | null, part: number): Place | null => {
      const place = placeFor(hop, part);
      return place && { ...place, share: place.share * part };
    };
    const tables = this.world.tablesOf(record.index);
    let branches = 0;
    for (const [n, c] of found.candidates.entries()) {
      const part = weights[n] / sum;
      const action = candidates.action[c];
      const hops = action === actionCodes.forward ? nextHopsOf(this.network, tables, c) : [];
      for (const hop of hops) {
        const place = placeWith(hop, part / hops.length);
        if (place) this.send(place, record, found.match, c, hop);
        branches++;
      }
      if (action === actionCodes.forward) continue;
      branches++;
      const place = placeWith(null, part);
      if (!place) continue;
      if (action === actionCodes.vrf) {
        const onward = hopAt(place, found.match, c, null, place.device, null);
        this.arriveInVrf(place, onward, candidates.toVrf[c]);
      } else {
        const last = hopAt(place, found.match, c, null, -1, null);
        const code = action === actionCodes.drop ? "discarded" : "rejected";
        this.end(this.dropped({ ...place, trail: onto(place, last) }, code, { ended: true }));
      }
    }
    // A route that leads nowhere is as good as none.
    const place = branches === 0 ? placeWith(null, 1) : null;
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
    let decision: PolicyDecision | undefined;
    if (record.policy && place.in >= 0) {
      const zones: Zones = [interfaces.zones[place.in], interfaces.zones[hop.out]];
      const seen = this.seenByPolicy(place, record);
      const ruling = rulingOn(record, record.policy, zones, seen, this.stateAt(record));
      decision = ruling.decision;
      if (ruling.denied) {
        const why = decision ? { decision } : {};
        return this.end(this.dropped(place, ruling.denied, { zones, out: hop.out, ...why }));
      }
    }
    const hopTo = (here: Place, next: number, translated: Address | null): Hop => {
      const made = hopAt(here, match, c, hop, next, translated);
      return decision ? { ...made, decision } : made;
    };

    const translated = this.translationAt(place, record, hop);
    if (translated === "no-state") return this.end(this.dropped(place, "no-state", { out: hop.out }));
    const packet = translated ? { ...place.packet, source: translated.address } : place.packet;
    const sessions = translated
      ? [...place.sessions, sessionOf(record, place.packet.source, translated, hop)]
      : place.sessions;

    const straight = hop.address === null;
    const connected = c >= 0 && candidates.source[c] === sourceCodes.connected;
    const wanted =
      hop.address ?? (connected || !interfaces.pointToPoint[hop.out] ? packet.destination : null);
    const owner = findNeighbour(state, hop.out, wanted, hop.peer);
    const here = translated ? { ...place, packet, sessions } : place;
    const assumed =
      owner.contact === "nobody" && straight && wanted ? assumedHostAt(this.network, hop.out, wanted) : null;
    if (assumed)
      return this.deliverToAssumed(onto(place, hopTo(here, -1, translated?.address ?? null)), here, assumed);
    const neighbour =
      owner.contact === "nobody" && wanted ? (proxyFor(this.world, hop.out, wanted) ?? owner) : owner;
    const unreached = owner.contact === "nobody" && owner.interface >= 0;
    // Packets on silently dead members of a bundle are lost (rule 15.1).
    const partly = neighbour.contact === "answers" && membersOf(state, hop.out) === memberBits.some;
    if (partly || neighbour.contact !== "answers") {
      const stopped = hopTo(here, -1, translated?.address ?? null);
      const code: DropCode =
        partly || neighbour.contact === "link-dead"
          ? "link-dead"
          : straight && wanted && !unreached
            ? "host-not-listening"
            : "neighbour-silent";
      const lost = this.dropped({ ...here, trail: onto(place, stopped) }, code, {
        address: wanted,
        out: hop.out,
        neighbour: neighbour.interface,
        ended: true,
      });
      this.end(lost);
      if (!partly) return;
    }
    const next = interfaces.device[neighbour.interface];
    this.arrive({
      device: next,
      vrf: interfaces.vrf[neighbour.interface],
      in: neighbour.interface,
      packet,
      arrived: packet,
      trail: onto(place, hopTo(here, next, translated?.address ?? null)),
      sessions,
      share: place.share,
    });
  }

  /**
   * Whether a device knows the flow: of a reply, whether it passed on its way out; of a flow that was there before, whether
   * it did then. null where the packet counts as a new one.
   */
  private stateAt({ index, profile }: DeviceRecord): boolean | null {
    const { established } = this.sending;
    if (established?.states.has(index) || this.passed?.has(index)) return true;
    const asNew = this.undecided.protocol === "tcp" && profile.midStream === "as-new";
    if (this.passed) return established && asNew ? null : false;
    return established && this.undecided.protocol === "tcp" && !asNew ? false : null;
  }

  /** The source that a device puts in place, or null; of a flow that was there before, the one that it put there then. */
  private translationAt(place: Place, record: DeviceRecord, hop: NextHop): NewSource | "no-state" | null {
    const { established } = this.sending;
    const { source, protocol } = place.packet;
    // Replies of a flow that passed are left alone: translation of their destination was undone on arrival, and that of
    // the flow's destination is undone now (rules 6.6 and 6.9).
    if (this.passed?.has(record.index)) return this.restoredSource(record, source);
    const before = this.passed
      ? undefined
      : established?.sessions.find(
          (s) => s.end === "source" && s.device === record.index && sameAddress(s.original, source),
        );
    const isBound = !this.passed && established?.states.has(record.index) === true;
    if (before && (before.exit === undefined || before.exit === hop.out))
      return { address: before.translated, ofExit: before.exit !== undefined };
    // What a device let pass without a translation keeps none, by whatever exit it leaves (rule 18).
    if (isBound && !before) return null;
    const anew = translatedSource(this.world, record, hop, place.packet);
    const refused = record.profile.midStream === "drop";
    if (this.passed && !this.sending.isError) {
      // Of a flow that it sees the replies of alone, a reply over UDP is new; ICMP and TCP have no state (rule 6.6).
      if (anew && protocol !== "udp" && refused) return "no-state";
      return protocol === "icmp" ? null : anew;
    }
    return (anew || before) && established && protocol === "tcp" && refused ? "no-state" : anew;
  }

  /** The address that the sender wrote to, where a device had put another one in its place; null where it had not. */
  private restoredSource(record: DeviceRecord, source: Address): NewSource | null {
    const made = [...(this.sending.answers?.sessions ?? []), ...(this.sending.established?.sessions ?? [])];
    const session = made.find(
      (s) => s.end === "destination" && s.device === record.index && sameAddress(s.translated, source),
    );
    return session ? { address: session.original, ofExit: false } : null;
  }

  /** The packet as a device's policy sees it: with the new destination, or that before translation, by its profile. */
  private seenByPolicy({ packet, arrived, sessions }: Place, { index, profile }: DeviceRecord): Packet {
    const translated = sessions.some((s) => s.end === "destination" && s.device === index);
    if (!translated || profile.policyDestination === "new") return packet;
    return { ...packet, destination: arrived.destination, port: arrived.port };
  }

  private end(walk: Walk) {
    this.walks.push(walk);
  }

  /** Like `droppedAt`, without the placeholder packet if no source is chosen. */
  private dropped(place: PartialPlace, code: DropCode, more: DropDetails = {}): Walk {
    return droppedAt(this.withoutStandIn(place), code, more);
  }

  private withoutStandIn(place: PartialPlace): PartialPlace {
    return place.packet === this.undecided ? { ...place, packet: null } : place;
  }
}
