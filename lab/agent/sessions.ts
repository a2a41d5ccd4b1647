import { createSocket, type Socket } from "node:dgram";
import { readControl, writeControl } from "./bfd/packet.ts";
import { BfdEnd } from "./bfd/session.ts";
import type { Clock } from "./clock.ts";
import type { BfdOrder } from "./orders.ts";
import { bound } from "./sockets.ts";

/** Single hop: the port of RFC 5881, section 4, and the hop limit that says that no router was between (section 5). */
const PORT = 3784;
const FIRST_SOURCE_PORT = 49_152;
const HOPS = 255;

/** All sessions of a device: their sockets, and whose a packet is. */
export class Sessions {
  private readonly ends: { order: BfdOrder; end: BfdEnd }[] = [];
  private readonly sockets: Socket[] = [];

  constructor(
    private readonly clock: Clock,
    private readonly told: () => void,
  ) {}

  async add(order: BfdOrder): Promise<BfdEnd> {
    const number = this.ends.length;
    const kind = order.local.includes(":") ? "udp6" : "udp4";
    const out = createSocket(kind);
    await bound(out, FIRST_SOURCE_PORT + number, order.local);
    out.setTTL(HOPS);
    this.sockets.push(out);
    const end = new BfdEnd(
      // Different at every start, so that what remains of an earlier session is known as such.
      1 + ((Math.floor(this.clock.now()) * 64 + number) % 0xffff_fffe),
      order,
      this.clock,
      (packet) => out.send(writeControl(packet), PORT, order.peer, () => {}),
      () => this.told(),
    );
    if (!this.ends.some((one) => one.order.local === order.local)) await this.listen(order.local, kind);
    this.ends.push({ order, end });
    return end;
  }

  private async listen(local: string, kind: "udp4" | "udp6") {
    const socket = createSocket(kind);
    socket.on("message", (bytes, from) => {
      const packet = readControl(bytes);
      if (!packet) return;
      const peer = from.address;
      this.ends
        .find(
          ({ order, end }) =>
            order.local === local && sameAddress(order.peer, peer) && end.owns(packet.yours),
        )
        ?.end.receive(packet);
    });
    await bound(socket, PORT, local);
    this.sockets.push(socket);
  }

  start() {
    for (const { end } of this.ends) end.start();
  }

  end() {
    for (const { end } of this.ends) end.stop();
    for (const socket of this.sockets) socket.close();
  }
}

const bare = (address: string) => address.split("%")[0].toLowerCase();
const sameAddress = (one: string, other: string) => bare(one) === bare(other);
