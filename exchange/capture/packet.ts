import { type Address, formatAddress, makeAddress } from "../../core/address/index.ts";
import type { CapturedFrame } from "./file.ts";

/** What a frame says of an address and its hardware: an ARP or neighbour discovery message. */
export interface Neighbouring {
  readonly address: string;
  readonly hardware: string;
}

/** A packet of a conversation. Addresses and hardware addresses as text; "" where the capture has none. */
export interface CapturedPacket {
  readonly atMs: number;
  readonly fromHardware: string;
  readonly toHardware: string;
  readonly source: string;
  readonly destination: string;
  readonly protocol: "icmp" | "tcp" | "udp";
  /** Ports, or the identifier of an echo in both; 0 without ports. */
  readonly sourcePort: number;
  readonly destinationPort: number;
  /** For an echo: whether it asks or answers, and its sequence number. */
  readonly echo: { readonly asks: boolean; readonly sequence: number } | null;
  /** For TCP: flags, payload and acknowledgment. */
  readonly tcp: {
    readonly opens: boolean;
    readonly sequence: number;
    /** Sequence numbers that it uses up. */
    readonly takes: number;
    /** Next sequence number expected, or null. */
    readonly acknowledges: number | null;
  } | null;
}

export interface Decoded {
  readonly packet: CapturedPacket | null;
  readonly neighbour: Neighbouring | null;
}

const NOTHING: Decoded = { packet: null, neighbour: null };
const ETHERNET = 1;
const RAW = [12, 14, 101];
const RAW_4 = 228;
const RAW_6 = 229;
const COOKED = 113;
const COOKED_2 = 276;

/** Reads a frame's headers (RFC 791, 792, 826, 4443, 4861, 8200, 9293). Truncated or unknown content returns nothing.
 * */
export function decodeFrame(frame: CapturedFrame): Decoded {
  const { data, linkType, atMs } = frame;
  try {
    const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
    if (linkType === ETHERNET) return etherType(view, 12, atMs, hardware(view, 6), hardware(view, 0));
    if (linkType === COOKED) return payload(view, 16, view.getUint16(14), atMs, hardware(view, 6), "");
    if (linkType === COOKED_2) return payload(view, 20, view.getUint16(0), atMs, hardware(view, 12), "");
    if (RAW.includes(linkType) || linkType === RAW_4 || linkType === RAW_6)
      return payload(view, 0, view.getUint8(0) >> 4 === 6 ? 0x86dd : 0x0800, atMs, "", "");
    return NOTHING;
  } catch (error) {
    // A header extends beyond the captured bytes.
    if (error instanceof RangeError) return NOTHING;
    throw error;
  }
}

/** A hardware address as text: six pairs of digits with colons. */
function hardware(view: DataView, at: number): string {
  return Array.from({ length: 6 }, (_, i) =>
    view
      .getUint8(at + i)
      .toString(16)
      .padStart(2, "0"),
  ).join(":");
}

/** The type at a place, behind any VLAN tags (IEEE 802.1Q). */
function etherType(view: DataView, at: number, atMs: number, from: string, to: string): Decoded {
  let place = at;
  while ([0x8100, 0x88a8, 0x9100].includes(view.getUint16(place))) place += 4;
  return payload(view, place + 2, view.getUint16(place), atMs, from, to);
}

function payload(view: DataView, at: number, type: number, atMs: number, from: string, to: string): Decoded {
  if (type === 0x0806) return { packet: null, neighbour: arp(view, at) };
  if (type === 0x0800) return ipv4(view, at, atMs, from, to);
  if (type === 0x86dd) return ipv6(view, at, atMs, from, to);
  return NOTHING;
}

const word4 = (view: DataView, at: number): Address => makeAddress(4, view.getUint32(at));
const word6 = (view: DataView, at: number): Address =>
  makeAddress(6, view.getUint32(at), view.getUint32(at + 4), view.getUint32(at + 8), view.getUint32(at + 12));

/** Who says that an IPv4 address is theirs, asking or answering. */
function arp(view: DataView, at: number): Neighbouring | null {
  if (view.getUint16(at) !== 1 || view.getUint16(at + 2) !== 0x0800) return null;
  const address = formatAddress(word4(view, at + 14));
  return address === "0.0.0.0" ? null : { address, hardware: hardware(view, at + 8) };
}

function ipv4(view: DataView, at: number, atMs: number, from: string, to: string): Decoded {
  const header = (view.getUint8(at) & 15) * 4;
  // Only the first fragment of a packet names its ports.
  if ((view.getUint16(at + 6) & 0x1fff) !== 0) return NOTHING;
  const ends = {
    source: formatAddress(word4(view, at + 12)),
    destination: formatAddress(word4(view, at + 16)),
  };
  const end = at + view.getUint16(at + 2);
  const base = { atMs, fromHardware: from, toHardware: to, ...ends };
  return { packet: transport(view, at + header, end, view.getUint8(at + 9), base), neighbour: null };
}

function ipv6(view: DataView, at: number, atMs: number, from: string, to: string): Decoded {
  const ends = {
    source: formatAddress(word6(view, at + 8)),
    destination: formatAddress(word6(view, at + 24)),
  };
  const end = at + 40 + view.getUint16(at + 4);
  let kind = view.getUint8(at + 6);
  let place = at + 40;
  // Hop-by-hop options, routing, destination options, fragment.
  while ([0, 43, 60, 44].includes(kind)) {
    if (kind === 44 && (view.getUint16(place + 2) & 0xfff8) !== 0) return NOTHING;
    const length = kind === 44 ? 8 : (view.getUint8(place + 1) + 1) * 8;
    kind = view.getUint8(place);
    place += length;
  }
  if (kind === 58 && [135, 136].includes(view.getUint8(place)))
    return { packet: null, neighbour: discovery(view, place, end, ends.source) };
  const base = { atMs, fromHardware: from, toHardware: to, ...ends };
  return { packet: transport(view, place, end, kind, base), neighbour: null };
}

/** Neighbour discovery: an advertisement names its target's hardware, a solicitation its sender's. */
function discovery(view: DataView, at: number, end: number, source: string): Neighbouring | null {
  const advertises = view.getUint8(at) === 136;
  for (let place = at + 24; place + 8 <= end; place += view.getUint8(place + 1) * 8 || 8) {
    if (view.getUint8(place) !== (advertises ? 2 : 1)) continue;
    const address = advertises ? formatAddress(word6(view, at + 8)) : source;
    return address === "::" ? null : { address, hardware: hardware(view, place + 2) };
  }
  return null;
}

type Base = Pick<CapturedPacket, "atMs" | "fromHardware" | "toHardware" | "source" | "destination">;

function transport(view: DataView, at: number, end: number, kind: number, base: Base): CapturedPacket | null {
  if (kind === 1 || kind === 58) {
    const [request, reply] = kind === 1 ? [8, 0] : [128, 129];
    const type = view.getUint8(at);
    if (type !== request && type !== reply) return null;
    const id = view.getUint16(at + 4);
    const echo = { asks: type === request, sequence: view.getUint16(at + 6) };
    return { ...base, protocol: "icmp", sourcePort: id, destinationPort: id, echo, tcp: null };
  }
  if (kind !== 6 && kind !== 17) return null;
  const ports = { sourcePort: view.getUint16(at), destinationPort: view.getUint16(at + 2) };
  if (kind === 17) return { ...base, ...ports, protocol: "udp", echo: null, tcp: null };
  const flags = view.getUint8(at + 13);
  const carried = Math.max(0, end - at - (view.getUint8(at + 12) >> 4) * 4);
  const tcp = {
    opens: (flags & 0x12) === 0x02,
    sequence: view.getUint32(at + 4),
    takes: carried + (flags & 0x02 ? 1 : 0) + (flags & 0x01 ? 1 : 0),
    acknowledges: flags & 0x10 ? view.getUint32(at + 8) : null,
  };
  return { ...base, ...ports, protocol: "tcp", echo: null, tcp };
}
