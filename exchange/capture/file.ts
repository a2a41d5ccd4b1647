/** A frame as it was captured. */
export interface CapturedFrame {
  /** Milliseconds since 1970, with fractions. */
  readonly atMs: number;
  /** The capture's interface that saw it, from 0 on. */
  readonly port: number;
  /** What its first bytes are, by the numbers of the link-layer type registry: 1 is Ethernet. */
  readonly linkType: number;
  /** The captured bytes; the rest was truncated during capture. */
  readonly data: Uint8Array;
}

export type CaptureReading =
  | {
      ok: true;
      frames: CapturedFrame[];
      /** Names of the capture's interfaces, "" where it gives none. */
      ports: string[];
      /** Skipped or truncated parts. */
      notes: string[];
    }
  | { ok: false; message: string };

const PCAP_MICRO = 0xa1b2c3d4;
const PCAP_NANO = 0xa1b23c4d;
const PCAPNG_SECTION = 0x0a0d0d0a;
const BYTE_ORDER = 0x1a2b3c4d;

/** Reads a packet capture: the classic format (draft-ietf-opsawg-pcap) and the next-generation one
 * (draft-ietf-opsawg-pcapng), of either byte order, with microseconds or nanoseconds. A file that ends inside a packet
 * is read up to there, with a note. */
export function readCapture(bytes: Uint8Array): CaptureReading {
  if (bytes.length < 4) return { ok: false, message: "the file is empty or too short for a capture" };
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [little, big] = [view.getUint32(0, true), view.getUint32(0, false)];
  if (little === PCAPNG_SECTION) return readBlocks(bytes, view);
  for (const [magic, isLittle] of [
    [little, true],
    [big, false],
  ] as const) {
    if (magic === PCAP_MICRO || magic === PCAP_NANO)
      return readRecords(bytes, view, isLittle, magic === PCAP_NANO ? 1e6 : 1e3);
  }
  return {
    ok: false,
    message: `the file is not a packet capture: it starts with 0x${big.toString(16).padStart(8, "0")}, which is neither pcap nor pcapng`,
  };
}

/** The classic format: one header, then a record a packet. `perMs`: units of the fraction in a millisecond. */
function readRecords(bytes: Uint8Array, view: DataView, little: boolean, perMs: number): CaptureReading {
  if (bytes.length < 24) return { ok: false, message: "the file ends within its header" };
  const linkType = view.getUint32(20, little) & 0xffff;
  const frames: CapturedFrame[] = [];
  const notes: string[] = [];
  let at = 24;
  while (at + 16 <= bytes.length) {
    const length = view.getUint32(at + 8, little);
    if (at + 16 + length > bytes.length) break;
    const atMs = view.getUint32(at, little) * 1000 + view.getUint32(at + 4, little) / perMs;
    frames.push({ atMs, port: 0, linkType, data: bytes.subarray(at + 16, at + 16 + length) });
    at += 16 + length;
  }
  if (at < bytes.length) notes.push(cutShort(at, frames.length));
  return { ok: true, frames, ports: [""], notes };
}

function cutShort(at: number, frames: number): string {
  return `the file is cut short or damaged at byte ${at}; the ${frames} packets before it were read`;
}

interface Port {
  readonly linkType: number;
  /** Timestamp units in a millisecond. */
  readonly perMs: number;
  readonly offsetMs: number;
}

/** The next-generation format: sections of blocks, each with its length before and after. */
function readBlocks(bytes: Uint8Array, view: DataView): CaptureReading {
  const frames: CapturedFrame[] = [];
  const notes: string[] = [];
  const names: string[] = [];
  let untimed = 0;
  let little = true;
  /** Ports of the section, and how many there were in the sections before. */
  let ports: Port[] = [];
  let before = 0;
  let at = 0;
  const put = (port: number, high: number, low: number, start: number, length: number) => {
    const from = ports[port];
    if (!from) return;
    const atMs = (high * 2 ** 32 + low) / from.perMs + from.offsetMs;
    frames.push({
      atMs,
      port: before + port,
      linkType: from.linkType,
      data: bytes.subarray(start, start + length),
    });
  };
  while (at + 12 <= bytes.length) {
    if (view.getUint32(at, true) === PCAPNG_SECTION) {
      little = view.getUint32(at + 8, true) === BYTE_ORDER;
      if (!little && view.getUint32(at + 8, false) !== BYTE_ORDER) break;
      before += ports.length;
      ports = [];
    }
    const kind = view.getUint32(at, little);
    const length = view.getUint32(at + 4, little);
    if (length < 12 || length % 4 !== 0 || at + length > bytes.length) break;
    const body = at + 8;
    const room = length - 12;
    if (kind === 1 && room >= 8) {
      const { port, name } = readPort(view, bytes, body, at + length - 4, little);
      ports.push(port);
      names.push(name);
    } else if ((kind === 6 || kind === 2) && room >= 20) {
      // The older packet block has a shorter number of the port, and a count of drops behind it.
      const port = kind === 6 ? view.getUint32(body, little) : view.getUint16(body, little);
      const [high, low] = [view.getUint32(body + 4, little), view.getUint32(body + 8, little)];
      put(port, high, low, body + 20, Math.min(view.getUint32(body + 12, little), room - 20));
    } else if (kind === 3) untimed++;
    at += length;
  }
  if (at < bytes.length) notes.push(cutShort(at, frames.length));
  if (untimed) notes.push(`${untimed} packets have no time and were skipped`);
  if (names.length === 0 && frames.length === 0)
    return { ok: false, message: "the pcapng file contains no interface and no packets" };
  return { ok: true, frames, ports: names, notes };
}

/** An interface description with the options that tell time and name. */
function readPort(view: DataView, bytes: Uint8Array, body: number, end: number, little: boolean) {
  let [perMs, offsetMs, name] = [1000, 0, ""];
  for (let at = body + 8; at + 4 <= end; ) {
    const code = view.getUint16(at, little);
    const length = view.getUint16(at + 2, little);
    if (code === 0 || at + 4 + length > end) break;
    if (code === 2) name = new TextDecoder().decode(bytes.subarray(at + 4, at + 4 + length));
    else if (code === 9 && length >= 1) {
      const power = view.getUint8(at + 4);
      perMs = (power & 0x80 ? 2 ** (power & 0x7f) : 10 ** power) / 1000;
    } else if (code === 14 && length >= 8) offsetMs = Number(view.getBigInt64(at + 4, little)) * 1000;
    at += 4 + Math.ceil(length / 4) * 4;
  }
  return { port: { linkType: view.getUint16(body, little), perMs, offsetMs } satisfies Port, name };
}
