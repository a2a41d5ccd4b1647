import { type Address, containsAddress } from "../../address/index.ts";
import {
  actionCodes,
  assumedHostAt,
  contactBy,
  type DeviceRecord,
  isUndrawnSegment,
  memberBits,
  membersOf,
  type Network,
  ownerNow,
} from "../../network/index.ts";
import type { NextHop } from "../../routes/index.ts";
import { BY_NEXT_HOP, type GatewayRecord, gatewayOfExit, gatewaysByExit, NO_GATEWAY } from "../gateways.ts";
import { type DropCode, dropCodes, type Protocol } from "../packet.ts";
import { rulingOn, type Zones } from "../policy.ts";
import { chooseSource } from "../source.ts";
import { translatedSource } from "../translation.ts";
import { HOP_LIMIT, MAX_WALKS } from "../walk.ts";
import type { World } from "../world.ts";
import { type AddressBook, addressBook } from "./addresses.ts";
import { Glide, isWalkedInFull } from "./glide.ts";
import { Places } from "./places.ts";
import {
  emptyRecord,
  type NumberedSession,
  Numbers,
  noSessions,
  results,
  type WalkRecord,
} from "./recorded.ts";
import { passesBack } from "./return-path.ts";
import { BRANCH, BY_ROLE, NONE, NOT_CHOSEN, ROW, type Rows } from "./rows.ts";

/** Who sends what to whom, addresses by number; source NONE lets the sender choose. */
export interface FlatSending {
  readonly device: number;
  readonly vrf: number;
  readonly source: number;
  readonly destination: number;
  readonly protocol: Protocol;
  readonly port: number | null;
  readonly pinned: NextHop | undefined;
  /** For a reply: the original sender and destination, and translations on the path. */
  readonly answers: { device: number; destination: number; sessions: readonly NumberedSession[] } | null;
}

export const codeOf = Object.fromEntries(dropCodes.map((code, i) => [code, i])) as Record<DropCode, number>;

/** Walks packets like `walkPacket`, by rules 6.1 to 6.6 and with the same ends, over rows of numbers: reports the end
 * of each path without hops or sentences. Sets `refused` for cases it does not cover: link-local IPv6 addresses,
 * virtual routers' addresses, bundles with silently dead members, replies that leave through the ingress interface, and
 * a sender's own source behind a route into another VRF; for whole networks, those of `isWalkedInFull`. */
export class FlatWalker {
  readonly book: AddressBook;
  /** The walks of the last packet, as far as `count`; the objects are used again. */
  readonly walks: WalkRecord[] = [];
  count = 0;
  refused = false;
  /** Whether a way of the last packet ended at a host that the plan does not draw (rule 2.8). */
  anyAssumed = false;
  /** The hops of those walks, and the gateways that packets left by, in the order in which they did. */
  readonly ways = new Numbers();
  readonly carriers: number[] = [];
  private gateways: readonly GatewayRecord[] = [];
  private gatewayAt: Int32Array | null = null;
  private readonly places = new Places();
  private readonly passed: Int32Array;
  private passing = 0;
  private readonly glide: Glide;
  private visited: Set<string> | null = null;
  private undecided = false;
  private world!: World;
  private sending!: FlatSending;
  private readonly packet: { source: Address; destination: Address; protocol: Protocol; port: number | null };

  constructor(private readonly network: Network) {
    this.book = addressBook(network);
    this.passed = new Int32Array(network.devices.length);
    this.glide = new Glide(network, this.book);
    const nowhere = { family: 4 as const, w0: 0, w1: 0, w2: 0, w3: 0 };
    this.packet = { source: nowhere, destination: nowhere, protocol: "icmp", port: null };
  }

  /** Sets the gateways to record; null for none. */
  tellGateways(gateways: readonly GatewayRecord[] | null) {
    this.gateways = gateways ?? [];
    this.gatewayAt = gateways && gatewaysByExit(gateways, this.network);
  }

  /** Says which devices the flow passed on its way out: those of a walk that has ended. */
  setPassed(ways: Numbers, { wayStart, wayEnd }: WalkRecord) {
    this.passing++;
    for (let at = wayStart; at < wayEnd; at += 2) this.passed[ways.list[at]] = this.passing;
  }

  /** Walks a packet; its results are `walks` up to `count`, unless `refused` is set. */
  walk(world: World, sending: FlatSending) {
    this.world = world;
    this.sending = sending;
    this.count = 0;
    this.anyAssumed = false;
    this.ways.length = 0;
    if (this.carriers.length) this.carriers.length = 0;
    this.visited = null;
    this.undecided = false;
    const { device, vrf, source, destination, pinned } = sending;
    const record = this.network.devices[device];
    this.refused = this.told(destination) || (source >= 0 && this.told(source)) || isWalkedInFull(world);
    if (this.refused) return;
    this.putAtSender(source < 0 ? destination : source);
    if (!world.state.deviceAlive[device]) return this.stop(0, "device-down");
    if (source >= 0 && record.role !== "internet" && !this.takes(device, -1, source))
      return this.stop(0, "source-not-own");
    if (this.takes(device, vrf, destination)) return this.deliver(0);
    if (pinned) this.sendPinned(record, pinned);
    else this.sendByTables(record);
  }

  /** Whether an address takes more than numbers: link-local ones of IPv6, and those of virtual routers. */
  private told(address: number): boolean {
    return this.book.linkLocal[address] || this.book.virtual[address];
  }

  private putAtSender(source: number) {
    const { device, vrf, destination } = this.sending;
    this.places.put(0, device, vrf, -1, source, destination);
    this.places.sentOn[0] = 0;
    this.places.sessions[0] = noSessions;
  }

  private sendPinned(record: DeviceRecord, hop: NextHop) {
    const { source, destination } = this.sending;
    const up = this.world.state.interfaceUp[hop.out] === 1;
    const own = !up ? NONE : source >= 0 ? source : this.chosen(record, hop);
    if (own === NONE) return this.stop(0, "no-source");
    if (this.refused) return;
    this.putAtSender(own);
    const { pointToPoint } = this.network.interfaces;
    const wanted = hop.address ?? (pointToPoint[hop.out] ? null : this.book.addresses[destination]);
    const owner = ownerNow(this.world.state, hop.out, wanted, hop.peer);
    this.send(0, record, hop, owner, hop.address === null && wanted !== null);
  }

  /** The source that a device chooses when it leaves by a next hop, or NONE. */
  private chosen(record: DeviceRecord, hop: NextHop): number {
    const destination = this.book.addresses[this.sending.destination];
    const address = chooseSource(this.world.state, record, hop, destination);
    if (!address) return NONE;
    const number = this.book.numberOf(address);
    if (this.book.linkLocal[number]) this.refused = true;
    return number;
  }

  /** As in `walkPacket`: where the sender chooses its source, tables that match by source are asked again (rule 6.1). */
  private sendByTables(record: DeviceRecord) {
    const { vrf, source, destination } = this.sending;
    const rows = this.world.rowsOf(record.index);
    const row = this.route(record, rows, vrf, -1, source, destination);
    if (row < 0) {
      if (record.role === "internet") return this.atInternet(0);
      return this.stop(0, record.outline ? "beyond-outline" : "no-route");
    }
    if (source >= 0) return this.follow(0, record, rows, row);
    const branches = rows.cells[row + ROW.branches];
    const again: number[] = [];
    for (let b = 0; b < branches && !this.refused; b++) {
      const branch = row + ROW.size + b * BRANCH.size;
      if (rows.cells[branch + BRANCH.action] === actionCodes.forward)
        this.sendByBranch(record, rows, row, branch, again);
      else if (rows.cells[branch + BRANCH.action] === actionCodes.vrf || branches > 1) this.refused = true;
      else this.sendUndecided(() => this.takeBranch(0, record, rows, branch));
    }
    if (branches === 0) this.sendUndecided(() => this.stop(0, "no-route"));
  }

  /** A packet for whose source there is no next hop to choose by. */
  private sendUndecided(send: () => void) {
    this.putAtSender(this.sending.destination);
    this.undecided = true;
    send();
    this.undecided = false;
  }

  private sendByBranch(record: DeviceRecord, rows: Rows, row: number, branch: number, again: number[]) {
    let own = rows.cells[branch + BRANCH.source];
    if (own === NOT_CHOSEN) {
      own = this.chosen(record, rows.hops[rows.cells[branch + BRANCH.hop]]);
      rows.cells[branch + BRANCH.source] = own;
    }
    if (own === NONE) {
      this.putAtSender(this.sending.destination);
      return this.stop(0, "no-source");
    }
    if (this.book.linkLocal[own]) this.refused = true;
    if (this.refused) return;
    this.putAtSender(own);
    const settled = record.policyTables.length
      ? this.route(record, rows, this.sending.vrf, -1, own, this.sending.destination)
      : row;
    if (settled < 0 || settled === row) this.takeBranch(0, record, rows, branch);
    else if (!again.includes(own)) {
      again.push(own);
      this.follow(0, record, rows, settled);
    }
  }

  /** As `findRoute`: policy tables that the way in and the source select, then the VRF's table. */
  private route(
    record: DeviceRecord,
    rows: Rows,
    vrf: number,
    incoming: number,
    source: number,
    destination: number,
  ): number {
    const plain = rows.find(vrf, destination);
    for (const table of record.policyTables) {
      if (table.vrf !== vrf) continue;
      if (table.incoming && !table.incoming.has(incoming)) continue;
      if (table.from) {
        const address = source < 0 ? null : this.book.addresses[source];
        if (!address || !table.from.some((prefix) => containsAddress(prefix, address))) continue;
      }
      const found = rows.find(table.table, destination);
      if (table.overlay) {
        const { cells } = rows;
        const longer = plain < 0 || cells[found + ROW.length] >= cells[plain + ROW.length];
        return found >= 0 && longer ? found : plain;
      }
      if (found >= 0) return found;
    }
    return plain;
  }

  /** A packet has arrived at a device: rule 6.2, in its order. */
  private arrive(at: number) {
    if (this.refused) return;
    const { places } = this;
    const device = places.device[at];
    const header = places.header(at);
    const { vrf } = header;
    const record = this.network.devices[device];
    if (places.circles(at)) return this.stop(at, "looped", results.looped);
    if (this.count >= MAX_WALKS && this.wasHere(at)) return;
    if (this.sending.answers) this.undoTranslation(at, this.sending.answers.sessions);
    const { source, destination } = header;
    const ends = this.takes(device, vrf, destination);
    const rows = this.world.rowsOf(device);
    const row = ends ? -1 : this.route(record, rows, vrf, places.in[at], source, destination);
    if (record.profile.returnPath !== "off") {
      const packet = { vrf, in: places.in[at], source, destination };
      const ask = (table: number, incoming: number, from: number, to: number) =>
        this.route(record, rows, table, incoming, from, to);
      if (!passesBack(record, rows, packet, row, ask)) return this.stop(at, "return-path");
    }
    if (ends) return this.deliver(at);
    if (record.outline) return this.stop(at, "beyond-outline");
    if (!record.forwards[this.book.addresses[destination].family]) return this.stop(at, "forwarding-off");
    if (row < 0 && record.role === "internet") return this.atInternet(at);
    if (row < 0) return this.stop(at, "no-route");
    if (places.sentOn[at] >= HOP_LIMIT) return this.stop(at, "hop-limit");
    this.follow(at, record, rows, row);
  }

  /** Past the ways that are listed one by one, every place is visited once. */
  private wasHere(at: number): boolean {
    const { places } = this;
    this.visited ??= new Set();
    const { vrf, source, destination } = places.header(at);
    const header = `${places.device[at]}/${vrf}/${places.in[at]} ${source} ${destination}`;
    if (this.visited.has(header)) return true;
    this.visited.add(header);
    return false;
  }

  /** Rule 6.6: a reply to a translated source gets the original back where the translation was made. */
  private undoTranslation(at: number, sessions: readonly NumberedSession[]) {
    const device = this.places.device[at];
    const header = this.places.header(at);
    for (const session of sessions) {
      if (session.device !== device || session.translated !== header.destination) continue;
      header.destination = session.original;
      return;
    }
  }

  /** Whether a device takes an address for its own on an up interface; `vrf` -1 takes any. */
  private takes(device: number, vrf: number, address: number): boolean {
    const { interfaces } = this.network;
    const { interfaceUp } = this.world.state;
    for (const i of this.book.answerers[address]) {
      if (interfaces.device[i] !== device || !interfaceUp[i]) continue;
      if (vrf < 0 || interfaces.vrf[i] === vrf) return true;
    }
    return false;
  }

  private deliver(at: number) {
    const { answers } = this.sending;
    if (answers && this.places.device[at] !== answers.device) return this.stop(at, "wrong-device");
    if (answers && this.places.header(at).source !== answers.destination) return this.stop(at, "no-state");
    this.leaveBy(at, -1, null);
    this.end(at, -1, results.delivered);
  }

  private atInternet(at: number) {
    const code = this.book.refusedByInternet(this.places.header(at).destination);
    if (code >= 0) this.stop(at, dropCodes[code]);
    else this.deliver(at);
  }

  /** Takes every branch of a row. */
  private follow(at: number, record: DeviceRecord, rows: Rows, row: number) {
    const branches = rows.cells[row + ROW.branches];
    for (let b = 0; b < branches; b++) this.takeBranch(at, record, rows, row + ROW.size + b * BRANCH.size);
    // A route that leads nowhere is as good as none.
    if (branches === 0) this.stop(at, "no-route");
  }

  private takeBranch(at: number, record: DeviceRecord, rows: Rows, branch: number) {
    if (this.refused) return;
    const { cells } = rows;
    const action = cells[branch + BRANCH.action];
    if (action === actionCodes.forward) {
      const hop = rows.hops[cells[branch + BRANCH.hop]];
      this.send(at, record, hop, cells[branch + BRANCH.owner], cells[branch + BRANCH.detail] === 1);
    } else if (action === actionCodes.vrf) {
      const { places } = this;
      this.leaveBy(at, -1, null);
      const vrf = cells[branch + BRANCH.detail];
      const { source, destination } = places.header(at);
      places.put(at + 1, record.index, vrf, places.in[at], source, destination);
      places.sentOn[at + 1] = places.sentOn[at];
      places.sessions[at + 1] = places.sessions[at];
      this.arrive(at + 1);
    } else this.stop(at, action === actionCodes.drop ? "discarded" : "rejected");
  }

  /** Policy between zones, source translation and neighbour (rule 6.2). */
  private send(at: number, record: DeviceRecord, hop: NextHop, written: number, straight: boolean) {
    const { places } = this;
    const { interfaces } = this.network;
    const reply = this.sending.answers !== null;
    const passed = reply && this.passed[record.index] === this.passing;
    if (record.policy && places.in[at] >= 0) {
      const zones: Zones = [interfaces.zones[places.in[at]], interfaces.zones[hop.out]];
      const { denied } = rulingOn(record, record.policy, zones, this.packetAt(at), reply ? passed : null);
      if (denied) return this.stop(at, denied);
    }
    const { destination } = places.header(at);
    let { source } = places.header(at);
    let sessions = places.sessions[at];
    if (record.sourceNat.length > 0 && !passed) {
      const packet = this.packetAt(at);
      const anew = translatedSource(this.world, record, hop, packet);
      // Of a flow that it sees the replies of alone, a reply over UDP is new; ICMP and TCP have no state (rule 6.6).
      const stateless = anew && reply && packet.protocol !== "udp";
      if (stateless && record.profile.midStream === "drop") return this.stop(at, "no-state");
      if (anew && !(stateless && packet.protocol === "icmp")) {
        const translated = this.book.numberOf(anew.address);
        if (this.book.linkLocal[translated]) this.refused = true;
        sessions = [...sessions, { device: record.index, original: source, translated }];
        source = translated;
      }
    }
    const { state } = this.world;
    const wanted = hop.address ?? (straight ? this.book.addresses[destination] : null);
    const owner = written === BY_ROLE ? ownerNow(state, hop.out, wanted, hop.peer) : written;
    // Where some members of a bundle are silently dead, ways part.
    if (membersOf(state, hop.out) === memberBits.some) this.refused = true;
    const contact = contactBy(state, hop.out, owner);
    if (contact !== "answers") {
      this.leaveBy(at, hop.out, null);
      if (isUndrawnSegment(this.network, hop.out)) this.refused = true;
      if (
        contact === "nobody" &&
        straight &&
        assumedHostAt(this.network, hop.out, this.book.addresses[destination])
      ) {
        this.anyAssumed = true;
        return this.end(at, -1, results.delivered);
      }
      const silent = straight ? "host-not-listening" : "neighbour-silent";
      return this.end(at, codeOf[contact === "link-dead" ? "link-dead" : silent], results.dropped);
    }
    this.leaveBy(at, hop.out, hop);
    const next = interfaces.device[owner];
    places.put(at + 1, next, interfaces.vrf[owner], owner, source, destination);
    places.sentOn[at + 1] = places.sentOn[at] + (next === record.index ? 0 : 1);
    places.sessions[at + 1] = sessions;
    if (this.refused) return;
    const plain = this.count < MAX_WALKS && !this.sending.answers?.sessions.length;
    this.arrive(plain ? this.glide.from(at + 1, this.world, places, this.gatewayAt) : at + 1);
  }

  private packetAt(at: number) {
    const { packet, sending } = this;
    const { source, destination } = this.places.header(at);
    packet.source = this.book.addresses[source];
    packet.destination = this.book.addresses[destination];
    packet.protocol = sending.protocol;
    packet.port = sending.port;
    return packet;
  }

  private leaveBy(at: number, out: number, taken: NextHop | null) {
    this.places.out[at] = out;
    this.places.taken[at] = taken;
  }

  /** The walk ends here, unsent. */
  private stop(at: number, code: DropCode, result: number = results.dropped) {
    this.leaveBy(at, -1, null);
    this.end(at, codeOf[code], result);
  }

  private end(at: number, code: number, result: number) {
    if (this.refused) return;
    const { places, ways } = this;
    if (this.count === this.walks.length) this.walks.push(emptyRecord());
    const record = this.walks[this.count++];
    record.result = result;
    record.code = code;
    record.device = places.device[at];
    const { vrf, source, destination } = places.header(at);
    record.vrf = vrf;
    record.source = source;
    record.destination = destination;
    record.undecided = this.undecided;
    record.sessions = places.sessions[at];
    record.wayStart = ways.length;
    ways.reserve(2 * at + 2);
    const { list } = ways;
    const { gatewayAt } = this;
    let to = ways.length;
    for (let k = 0; k <= at; k++) {
      const out = places.out[k];
      list[to++] = places.device[k];
      list[to++] = out;
      // At its last place no device accepted the packet.
      if (gatewayAt === null || k === at || out < 0 || gatewayAt[out] === NO_GATEWAY) continue;
      this.carry(k, gatewayAt[out]);
    }
    ways.length = to;
    record.wayEnd = to;
  }

  private carry(at: number, standing: number) {
    const { out, taken } = this.places;
    const gateway =
      standing === BY_NEXT_HOP ? gatewayOfExit(this.gateways, out[at], taken[at]?.address ?? null) : standing;
    if (gateway >= 0 && !this.carriers.includes(gateway)) this.carriers.push(gateway);
  }
}
