import { mkdirSync, writeFileSync } from "node:fs";
import { dirname } from "node:path";
import { fileURLToPath } from "node:url";

/**
 * Makes the demo's packet capture: what a mirror port at Longhaven, watching both lines, would have seen while
 * line 1 was cut for twenty seconds. The desk pings the timetable server twenty times a second. All of it is
 * written here by hand, from how such equipment behaves; nothing is asked of the engine.
 */

/** Where the product itself hands it out. */
export const CAPTURE_FILE = fileURLToPath(new URL("../public/demo/longhaven-cut.pcapng", import.meta.url));

const DESK = [172, 20, 48, 10];
const TIMETABLE = [172, 20, 90, 20];
const lines = {
  1: { edge: hardware("00:00:5e:00:53:11"), core: hardware("00:00:5e:00:53:21"), rttMs: 14.2 },
  2: { edge: hardware("00:00:5e:00:53:12"), core: hardware("00:00:5e:00:53:22"), rttMs: 19.6 },
} as const;

const EVERY_MS = 50;
const START_MS = Date.UTC(2026, 10, 20, 22, 4, 0);
const CUT_MS = 5_013;
const MENDED_MS = CUT_MS + 20_000;
const END_MS = 30_000;
/** From the cut, and from the mending, until each side has moved its traffic over. */
const EDGE_NOTICES_MS = 103;
const CORE_NOTICES_MS = 98;

interface Sent {
  atMs: number;
  frame: Uint8Array;
}

function hardware(text: string): number[] {
  return text.split(":").map((pair) => Number.parseInt(pair, 16));
}

/** The internet checksum (RFC 1071). */
function checksum(bytes: readonly number[]): [number, number] {
  let sum = 0;
  for (let i = 0; i < bytes.length; i += 2) sum += (bytes[i] << 8) | (bytes[i + 1] ?? 0);
  while (sum > 0xffff) sum = (sum & 0xffff) + (sum >>> 16);
  return [(~sum >> 8) & 255, ~sum & 255];
}

const word = (value: number) => [(value >> 8) & 255, value & 255];

/** An echo request or its answer in an Ethernet frame. */
function echo(from: readonly number[], to: readonly number[], asks: boolean, sequence: number): Uint8Array {
  const data = Array.from({ length: 24 }, (_, i) => 0x61 + (i % 23));
  const icmp = [asks ? 8 : 0, 0, 0, 0, ...word(0x4d42), ...word(sequence), ...data];
  icmp.splice(2, 2, ...checksum(icmp));
  const [source, destination] = asks ? [DESK, TIMETABLE] : [TIMETABLE, DESK];
  const ip = [0x45, 0, ...word(20 + icmp.length), ...word(sequence), 0x40, 0, asks ? 63 : 61, 1, 0, 0];
  const header = [...ip, ...source, ...destination];
  header.splice(10, 2, ...checksum(header));
  return Uint8Array.from([...to, ...from, 0x08, 0x00, ...header, ...icmp]);
}

/** The carrying line at a moment, as one side believes it. */
function lineAt(ms: number, noticesMs: number): 1 | 2 {
  return ms >= CUT_MS + noticesMs && ms < MENDED_MS + noticesMs ? 2 : 1;
}

const cutAt = (ms: number) => ms >= CUT_MS && ms < MENDED_MS;

function traffic(): { line: 1 | 2; sent: Sent }[] {
  const seen: { line: 1 | 2; sent: Sent }[] = [];
  for (let sequence = 1, atMs = 0; atMs < END_MS; sequence++, atMs += EVERY_MS) {
    // Nothing is quite regular: a wobble drawn from the number, the same every time.
    const askedMs = atMs + ((sequence * 7919) % 23) / 10;
    const out = lineAt(askedMs, EDGE_NOTICES_MS);
    const { edge, core, rttMs } = lines[out];
    // The mirror sees what the router sends, also into a line that is cut.
    seen.push({ line: out, sent: { atMs: askedMs, frame: echo(edge, core, true, sequence) } });
    if (out === 1 && cutAt(askedMs)) continue;
    const answeredMs = askedMs + rttMs + ((sequence * 104729) % 17) / 10;
    const back = lineAt(answeredMs, CORE_NOTICES_MS);
    if (back === 1 && cutAt(answeredMs)) continue;
    const way = lines[back];
    seen.push({ line: back, sent: { atMs: answeredMs, frame: echo(way.core, way.edge, false, sequence) } });
  }
  return seen.sort((a, b) => a.sent.atMs - b.sent.atMs);
}

/** Bytes of a pcapng block (draft-ietf-opsawg-pcapng), little-endian. */
function block(kind: number, body: Uint8Array): Uint8Array {
  const padded = Math.ceil(body.length / 4) * 4;
  const bytes = new Uint8Array(12 + padded);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, kind, true);
  view.setUint32(4, bytes.length, true);
  bytes.set(body, 8);
  view.setUint32(8 + padded, bytes.length, true);
  return bytes;
}

function option(code: number, text: string): number[] {
  const bytes = [...new TextEncoder().encode(text)];
  const padding = new Array((4 - (bytes.length % 4)) % 4).fill(0);
  return [code & 255, code >> 8, bytes.length & 255, bytes.length >> 8, ...bytes, ...padding];
}

/** The capture, byte for byte the same every time. */
export function capture(): Uint8Array {
  const section = new Uint8Array(16);
  const view = new DataView(section.buffer);
  view.setUint32(0, 0x1a2b3c4d, true);
  view.setUint16(4, 1, true);
  view.setBigInt64(8, -1n, true);
  const port = (name: string) => Uint8Array.from([1, 0, 0, 0, 0, 0, 4, 0, ...option(2, name), 0, 0, 0, 0]);
  const blocks = [
    block(0x0a0d0d0a, section),
    block(1, port("longhaven wan1")),
    block(1, port("longhaven wan2")),
  ];
  for (const { line, sent } of traffic()) {
    const body = new Uint8Array(20 + sent.frame.length);
    const packet = new DataView(body.buffer);
    const micros = BigInt(Math.round((START_MS + sent.atMs) * 1000));
    packet.setUint32(0, line - 1, true);
    packet.setUint32(4, Number(micros >> 32n), true);
    packet.setUint32(8, Number(micros & 0xffffffffn), true);
    packet.setUint32(12, sent.frame.length, true);
    packet.setUint32(16, sent.frame.length, true);
    body.set(sent.frame, 20);
    blocks.push(block(6, body));
  }
  const bytes = new Uint8Array(blocks.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of blocks) {
    bytes.set(part, at);
    at += part.length;
  }
  return bytes;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  mkdirSync(dirname(CAPTURE_FILE), { recursive: true });
  writeFileSync(CAPTURE_FILE, capture());
}
