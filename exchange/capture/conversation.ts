import type { CapturedFrame } from "./file.ts";
import { type CapturedPacket, decodeFrame } from "./packet.ts";

/** Packets between one asking side and one answering side. */
export interface Conversation {
  readonly client: string;
  readonly server: string;
  readonly protocol: CapturedPacket["protocol"];
  /** The server's port; null for echoes. */
  readonly port: number | null;
  readonly packets: readonly CapturedPacket[];
}

/** A packet that was sent and what came of it. */
export interface Exchange {
  /** When it was seen first. */
  readonly atMs: number;
  /** The time of its answer; null without one. */
  readonly answeredMs: number | null;
  /** Hardware addresses at both ends of the frames that carried it out, and its answer back. */
  readonly outHardware: readonly string[];
  readonly backHardware: readonly string[];
}

/** Everything that a capture tells: its conversations, the busiest first, and whose hardware address is whose. */
export interface Conversations {
  readonly conversations: readonly Conversation[];
  /** Hardware addresses by the address that they said they own. */
  readonly neighbours: ReadonlyMap<string, readonly string[]>;
}

/** An answer that comes later than this is none: its sender has given up by then. */
const ANSWER_WITHIN_MS = 2000;

/** Reads all frames and sorts their packets into conversations. */
export function conversationsOf(frames: readonly CapturedFrame[]): Conversations {
  const all = new Map<string, { conversation: Conversation; packets: CapturedPacket[] }>();
  const neighbours = new Map<string, string[]>();
  /** Which side of a pair of ports asks, settled by its first packet. */
  const sides = new Map<string, boolean>();
  for (const frame of frames) {
    const { packet, neighbour } = decodeFrame(frame);
    if (neighbour) {
      const list = neighbours.get(neighbour.address) ?? [];
      if (!list.includes(neighbour.hardware))
        neighbours.set(neighbour.address, [...list, neighbour.hardware]);
    }
    if (!packet) continue;
    const asks = fromClient(packet, sides);
    const [client, server] = asks ? [packet.source, packet.destination] : [packet.destination, packet.source];
    const port = packet.protocol === "icmp" ? null : asks ? packet.destinationPort : packet.sourcePort;
    const key = `${client} ${server} ${packet.protocol} ${port}`;
    let entry = all.get(key);
    if (!entry) {
      const packets: CapturedPacket[] = [];
      entry = { conversation: { client, server, protocol: packet.protocol, port, packets }, packets };
      all.set(key, entry);
    }
    entry.packets.push(packet);
  }
  const conversations = [...all.values()].map(({ conversation, packets }) => {
    packets.sort((a, b) => a.atMs - b.atMs);
    return conversation;
  });
  return { conversations: conversations.sort((a, b) => b.packets.length - a.packets.length), neighbours };
}

/** Whether a packet goes from the side that asks: an echo request, the side that opens, else that of the higher port. */
function fromClient(packet: CapturedPacket, sides: Map<string, boolean>): boolean {
  if (packet.echo) return packet.echo.asks;
  const here = `${packet.source} ${packet.sourcePort}`;
  const there = `${packet.destination} ${packet.destinationPort}`;
  const key = [here, there].sort().join(" ");
  const forward = here < there;
  if (packet.tcp?.opens) sides.set(key, forward);
  const known = sides.get(key);
  if (known !== undefined) return known === forward;
  const asks = packet.sourcePort >= packet.destinationPort;
  sides.set(key, asks === forward);
  return asks;
}

/** Requests with their answers, ordered by time. A packet captured at several points of its path counts once, with all
 * hardware addresses. Echoes are matched by sequence number, TCP by acknowledgment, UDP by the next packet in the other
 * direction. */
export function exchangesOf({ packets, server }: Conversation): Exchange[] {
  const asked: { first: CapturedPacket; out: string[]; answer: CapturedPacket | null; back: string[] }[] = [];
  const byKey = new Map<string, (typeof asked)[number]>();
  /** UDP packets that wait for an answer, by the port that they were sent from, the oldest first. */
  const waiting = new Map<number, (typeof asked)[number][]>();
  const add = (list: string[], packet: CapturedPacket) => {
    for (const address of [packet.fromHardware, packet.toHardware])
      if (address !== "" && !list.includes(address)) list.push(address);
  };
  for (const packet of packets) {
    if (packet.destination === server) {
      if (packet.tcp && packet.tcp.takes === 0) continue;
      const key = keyOf(packet);
      const known = byKey.get(key);
      // The same packet at another place, or sent again after it was lost.
      if (known && (packet.atMs - known.first.atMs < 50 || packet.tcp)) {
        add(known.out, packet);
        continue;
      }
      const entry = { first: packet, out: [] as string[], answer: null, back: [] as string[] };
      add(entry.out, packet);
      byKey.set(key, entry);
      asked.push(entry);
      if (packet.protocol === "udp") {
        const queue = waiting.get(packet.sourcePort);
        if (queue) queue.push(entry);
        else waiting.set(packet.sourcePort, [entry]);
      }
      continue;
    }
    for (const entry of answeredBy(packet, byKey, asked, waiting)) {
      if (entry.answer === null && packet.atMs - entry.first.atMs > ANSWER_WITHIN_MS) continue;
      entry.answer ??= packet;
      add(entry.back, packet);
    }
  }
  return asked.map(({ first, out, answer, back }) => ({
    atMs: first.atMs,
    answeredMs: answer?.atMs ?? null,
    outHardware: out,
    backHardware: back,
  }));
}

function keyOf(packet: CapturedPacket): string {
  if (packet.echo) return `${packet.sourcePort} ${packet.echo.sequence}`;
  if (packet.tcp) return `${packet.source} ${packet.sourcePort} ${packet.tcp.sequence}`;
  return `${packet.source} ${packet.sourcePort} ${packet.atMs}`;
}

function answeredBy<T extends { first: CapturedPacket; answer: CapturedPacket | null }>(
  packet: CapturedPacket,
  byKey: ReadonlyMap<string, T>,
  asked: readonly T[],
  waiting: ReadonlyMap<number, T[]>,
): T[] {
  if (packet.echo) {
    const entry = byKey.get(keyOf(packet));
    return entry ? [entry] : [];
  }
  if (packet.tcp) {
    const { acknowledges } = packet.tcp;
    if (acknowledges === null) return [];
    const open = asked.slice(-64).filter((entry) => entry.answer === null || entry.answer === packet);
    return open.filter(({ first }) => {
      const ends = first.tcp ? (first.tcp.sequence + first.tcp.takes) >>> 0 : 0;
      // Sequence numbers wrap (RFC 9293, section 3.4).
      return first.sourcePort === packet.destinationPort && (acknowledges - ends) >> 0 >= 0;
    });
  }
  const queue = waiting.get(packet.destinationPort);
  if (!queue) return [];
  while (queue.length > 0 && packet.atMs - queue[0].first.atMs > ANSWER_WITHIN_MS) queue.shift();
  const next = queue.shift();
  return next ? [next] : [];
}
