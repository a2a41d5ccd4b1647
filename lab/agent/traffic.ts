import { createSocket, type Socket } from "node:dgram";
import { nowMs } from "./clock.ts";
import { ANSWER_MS, type EchoOrder, type FlowOrder, type SentPackets, STAMPS_AT } from "./orders.ts";
import { bound } from "./sockets.ts";

const kindOf = (address: string) => (address.includes(":") ? "udp6" : "udp4");
/** Returns received packets to their sender. */
export function answer({ address, port }: EchoOrder): Promise<Socket> {
  const socket = createSocket(kindOf(address));
  socket.on("message", (bytes, from) => socket.send(bytes, from.port, from.address, () => {}));
  return bound(socket, port, address);
}

/** Sends a flow's packets at its rate, and keeps what came of each. */
export class Sender {
  private readonly sentMs: number[] = [];
  private readonly stamps: (number[] | null)[] = [];
  private readonly sockets = new Set<Socket>();
  private kept: Socket | null = null;
  private timer: NodeJS.Timeout | null = null;

  constructor(private readonly order: FlowOrder) {}

  async start() {
    if (!this.order.fresh) this.kept = await this.open();
    const periodMs = 1000 / this.order.rate;
    const firstMs = nowMs();
    const tick = () => {
      this.send();
      // By the clock, so that a late packet does not put off all that follow.
      const next = firstMs + this.sentMs.length * periodMs;
      this.timer = setTimeout(tick, Math.max(0, next - nowMs()));
    };
    tick();
  }

  private async open(): Promise<Socket> {
    const { to, source } = this.order;
    const socket = createSocket(kindOf(to));
    this.sockets.add(socket);
    socket.on("message", (bytes) => this.take(bytes));
    return bound(socket, 0, source ?? undefined);
  }

  private send() {
    const n = this.sentMs.length;
    this.sentMs.push(nowMs());
    this.stamps.push(null);
    const bytes = Buffer.alloc(STAMPS_AT + this.order.gateways);
    bytes.writeUInt32BE(this.order.number, 0);
    bytes.writeUInt32BE(n, 4);
    const { port, to } = this.order;
    if (this.kept) {
      this.kept.send(bytes, port, to, () => {});
      return;
    }
    this.open().then(
      (socket) => {
        this.sentMs[n] = nowMs();
        socket.send(bytes, port, to, () => {});
        setTimeout(() => this.close(socket), ANSWER_MS);
      },
      // Its source address is gone: nothing leaves.
      () => {},
    );
  }

  private close(socket: Socket) {
    if (this.sockets.delete(socket)) socket.close();
  }

  private take(bytes: Buffer) {
    if (bytes.length < STAMPS_AT || bytes.readUInt32BE(0) !== this.order.number) return;
    const n = bytes.readUInt32BE(4);
    if (n >= this.stamps.length || this.stamps[n] || nowMs() - this.sentMs[n] > ANSWER_MS) return;
    this.stamps[n] = [...bytes.subarray(STAMPS_AT)].flatMap((stamp, g) => (stamp ? [g] : []));
  }

  /** Stops sending. Answers to packets in flight are still received. */
  stop() {
    if (this.timer) clearTimeout(this.timer);
  }

  result(): SentPackets {
    for (const socket of [...this.sockets]) this.close(socket);
    return { flow: this.order.flow, sentMs: this.sentMs, stamps: this.stamps };
  }
}
