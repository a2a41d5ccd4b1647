import { createSocket, type Socket } from "node:dgram";
import { writeFileSync } from "node:fs";
import type { Commands } from "../commands.ts";
import type { Clock } from "./clock.ts";
import type { VirtualOrder } from "./orders.ts";
import { bound } from "./sockets.ts";
import { readAdvertisement, writeAdvertisement } from "./virtual/advertisement.ts";
import { asNumber, Election } from "./virtual/election.ts";

/** Where advertisements go (RFC 9568, section 5.1.1.2). */
const GROUP = "224.0.0.18";
/** Raw sockets are unavailable here: messages are sent over UDP to this port, otherwise in their standard form. */
const PORT = 49_112;
const HOPS = 255;

/** The virtual routers of a device: each has its own port and hardware address, and forwards while Active. */
export class Virtuals {
  private readonly all: { order: VirtualOrder; election: Election; socket: Socket }[] = [];

  constructor(
    private readonly clock: Clock,
    private readonly commands: Commands,
    private readonly isUp: (track: VirtualOrder["track"][number]) => boolean,
    private readonly told: (order: VirtualOrder, active: boolean) => void,
  ) {}

  async add(order: VirtualOrder) {
    const socket = createSocket({ type: "udp4", reuseAddr: true });
    const election: Election = new Election(
      order,
      this.priorityOf(order),
      this.clock,
      (message) => {
        const bytes = writeAdvertisement(message, order.primary, GROUP);
        socket.send(bytes, PORT, GROUP, () => {});
      },
      (active) => this.become(order, active),
    );
    await listen(order, (bytes, from) => {
      const heard = readAdvertisement(bytes, from, GROUP);
      if (heard?.id === order.id && from !== order.primary && isNeighbour(order, from))
        election.hear(heard, from);
    });
    await bound(socket, 0, order.primary);
    socket.setMulticastTTL(HOPS);
    socket.setMulticastLoopback(false);
    // From there, so that bridges learn where the virtual router is (RFC 9568, section 7.2).
    socket.setMulticastInterface(order.ownAddress);
    this.all.push({ order, election, socket });
    const mates = this.all.filter((one) => order.sync !== undefined && one.order.sync === order.sync);
    if (mates.length > 1) Election.join(mates.map((one) => one.election));
  }

  /** Begins where the port is up. */
  start(isUp: (port: string) => boolean) {
    for (const { order, election } of this.all) if (isUp(order.port)) election.start();
  }

  portChanged(port: string, up: boolean) {
    for (const { order, election } of this.all) {
      if (order.port !== port) continue;
      if (up) election.start();
      else election.stop(false);
    }
  }

  /** Checks tracked items for changes. */
  look() {
    for (const { order, election } of this.all) election.setPriority(this.priorityOf(order));
  }

  /** Steps back with an announcement, on these ports or on all. */
  shut(ports: readonly string[] | null) {
    for (const { order, election } of this.all) if (!ports || ports.includes(order.port)) election.stop(true);
  }

  /** The device is dead: its ports are not lost one after the other, with time to announce the first on the next. */
  die() {
    for (const { election } of this.all) election.fallSilent();
  }

  private priorityOf({ priority, track }: VirtualOrder): number {
    const lowered = track.reduce((sum, one) => sum + (this.isUp(one) ? 0 : one.lower), 0);
    return Math.max(1, priority - lowered);
  }

  /** Frames to its hardware address are forwarded by the Active one alone, and its advertisements come from there. */
  private become(order: VirtualOrder, active: boolean) {
    writeFileSync(`/proc/sys/net/ipv4/conf/${order.own}/forwarding`, active ? "1" : "0");
    void this.commands.run(
      order.addresses.map((address) => `address ${active ? "add" : "del"} ${address}/32 dev ${order.own}`),
    );
    this.told(order, active);
  }

  end() {
    for (const { election, socket } of this.all) {
      election.stop(true);
      socket.close();
    }
  }
}

async function listen(order: VirtualOrder, hear: (bytes: Buffer, from: string) => void) {
  const socket = createSocket({ type: "udp4", reuseAddr: true });
  socket.on("message", (bytes, from) => hear(bytes, from.address));
  await bound(socket, PORT, GROUP);
  socket.addMembership(GROUP, order.primary);
  socket.unref();
}

/** Whether an address is in the subnet of a virtual router's port: what came in elsewhere is another group's. */
function isNeighbour({ primary, length }: VirtualOrder, address: string): boolean {
  const size = 2 ** (32 - length);
  return Math.floor(asNumber(primary) / size) === Math.floor(asNumber(address) / size);
}
