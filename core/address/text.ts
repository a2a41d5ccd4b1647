import { type Address, makeAddress } from "./address.ts";

/**
 * Reads an address in any text form: dotted decimal for IPv4, RFC 4291 section 2.2 for IPv6.
 * Returns null for anything else, octets with leading zeros and zone identifiers included.
 */
export function parseAddress(text: string): Address | null {
  return text.includes(":") ? parseIpv6(text) : parseIpv4(text);
}

/** An address with the interface on which it is meant, as RFC 4007 section 11 writes it: fe80::2%wan1. */
export interface ZonedAddress {
  readonly address: Address;
  /** The zone (interface name); null without one. */
  readonly zone: string | null;
}

/**
 * Reads an address that may name its interface after a percent sign. Null where the address is none, where the
 * name is empty, or where an address other than an IPv6 link-local one names an interface.
 */
export function parseZonedAddress(text: string): ZonedAddress | null {
  const at = text.indexOf("%");
  const address = parseAddress(at < 0 ? text : text.slice(0, at));
  if (!address || at < 0) return address && { address, zone: null };
  const zone = text.slice(at + 1);
  const linkLocal = address.family === 6 && address.w0 >>> 22 === 0xfe80 >>> 6;
  return zone !== "" && linkLocal ? { address, zone } : null;
}

/** Writes an address with its interface, where it has one. */
export function formatZonedAddress({ address, zone }: ZonedAddress): string {
  return zone === null ? formatAddress(address) : `${formatAddress(address)}%${zone}`;
}

function parseIpv4(text: string): Address | null {
  const value = dottedValue(text);
  return value === null ? null : makeAddress(4, value);
}

const [ZERO, NINE, DOT] = [48, 57, 46];

/** Read character by character: large tables are full of these. */
function dottedValue(text: string): number | null {
  let value = 0;
  let octets = 1;
  let octet = -1;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code >= ZERO && code <= NINE) {
      // A zero before other digits would be taken for octal by some.
      if (octet === 0) return null;
      octet = Math.max(octet, 0) * 10 + code - ZERO;
      if (octet > 255) return null;
    } else if (code === DOT && octet >= 0 && octets < 4) {
      value = value * 256 + octet;
      octet = -1;
      octets++;
    } else return null;
  }
  return octets === 4 && octet >= 0 ? value * 256 + octet : null;
}

function parseIpv6(text: string): Address | null {
  const halves = text.split("::");
  if (halves.length > 2) return null;
  const head = groupsOf(halves[0], halves.length === 1);
  const tail = halves.length === 2 ? groupsOf(halves[1], true) : [];
  if (!head || !tail) return null;
  const missing = 8 - head.length - tail.length;
  if (halves.length === 1 ? missing !== 0 : missing < 1) return null;
  const groups = [...head, ...new Array<number>(missing).fill(0), ...tail];
  const word = (i: number) => groups[2 * i] * 65536 + groups[2 * i + 1];
  return makeAddress(6, word(0), word(1), word(2), word(3));
}

/** The 16-bit groups of one side of "::"; the last may be dotted decimal where it ends the address. */
function groupsOf(text: string, endsAddress: boolean): number[] | null {
  if (text === "") return [];
  const groups: number[] = [];
  const parts = text.split(":");
  for (const [i, part] of parts.entries()) {
    if (/^[0-9a-fA-F]{1,4}$/.test(part)) {
      groups.push(Number.parseInt(part, 16));
      continue;
    }
    const dotted = endsAddress && i === parts.length - 1 ? dottedValue(part) : null;
    if (dotted === null) return null;
    groups.push(Math.floor(dotted / 65536), dotted % 65536);
  }
  return groups;
}

/** Writes an address in its canonical form: dotted decimal, or RFC 5952 section 4. */
export function formatAddress(address: Address): string {
  return address.family === 4 ? formatIpv4(address.w0) : formatIpv6(address);
}

function formatIpv4(value: number): string {
  return `${value >>> 24}.${(value >>> 16) & 255}.${(value >>> 8) & 255}.${value & 255}`;
}

function formatIpv6(a: Address): string {
  const groups = [a.w0, a.w1, a.w2, a.w3].flatMap((w) => [w >>> 16, w & 0xffff]);
  // RFC 5952 section 5: the IPv4-mapped prefix is written with its dotted tail.
  if (a.w0 === 0 && a.w1 === 0 && a.w2 === 0xffff) return `::ffff:${formatIpv4(a.w3)}`;
  const run = longestZeroRun(groups);
  const hex = groups.map((g) => g.toString(16));
  if (!run) return hex.join(":");
  return `${hex.slice(0, run.start).join(":")}::${hex.slice(run.end).join(":")}`;
}

/** RFC 5952 sections 4.2.2 and 4.2.3: the longest run of two or more zero groups, the first of equals. */
function longestZeroRun(groups: number[]): { start: number; end: number } | null {
  let best: { start: number; end: number } | null = null;
  for (let i = 0; i < groups.length; i++) {
    if (groups[i] !== 0) continue;
    let end = i;
    while (end < groups.length && groups[end] === 0) end++;
    if (end - i >= 2 && (!best || end - i > best.end - best.start)) best = { start: i, end };
    i = end;
  }
  return best;
}
