import { type Address, sameAddress } from "./address.ts";
import { containsAddress, lastOf, type Prefix, parsePrefix } from "./prefix.ts";

function prefixes(...texts: string[]): Prefix[] {
  return texts.map((text) => parsePrefix(text) as Prefix);
}

/**
 * Blocks that are not globally reachable (RFC 6890 with its successors' registries).
 * The documentation blocks are left out: plans use them as stand-ins for public addresses.
 */
const notGlobal = prefixes(
  "0.0.0.0/8",
  "10.0.0.0/8",
  "100.64.0.0/10",
  "127.0.0.0/8",
  "169.254.0.0/16",
  "172.16.0.0/12",
  "192.0.0.0/24",
  "192.168.0.0/16",
  "198.18.0.0/15",
  "240.0.0.0/4",
  "::/128",
  "::1/128",
  "::ffff:0:0/96",
  "100::/64",
  "2001:2::/48",
  "fc00::/7",
  "fe80::/10",
);
const linkLocal = prefixes("169.254.0.0/16", "fe80::/10");
const multicast = prefixes("224.0.0.0/4", "ff00::/8");

/** The blocks by which `isGloballyRoutable` tells addresses apart. */
export const specialBlocks: readonly Prefix[] = [...notGlobal, ...multicast];

const inAny = (list: Prefix[], address: Address) => list.some((p) => containsAddress(p, address));

/** Whether the public internet would carry a packet to this address (rule 7.4; RFC 6890). */
export function isGloballyRoutable(address: Address): boolean {
  return !inAny(notGlobal, address) && !inAny(multicast, address);
}

export function isLinkLocal(address: Address): boolean {
  return inAny(linkLocal, address);
}

export function isIpv6LinkLocal(address: Address): boolean {
  // fe80::/10, by its first ten bits: it is asked at every hop.
  return address.family === 6 && address.w0 >>> 22 === 0xfe80 >>> 6;
}

export function isMulticast(address: Address): boolean {
  return inAny(multicast, address);
}

/**
 * Whether the address names the subnet itself or all of it (rule 4.4): the first address of an IPv4
 * subnet and its last, the first of an IPv6 one (RFC 4291 section 2.6.1). Point-to-point subnets have
 * neither: /31 (RFC 3021), /127 (RFC 6164), and single addresses.
 */
export function subnetAddressKind(subnet: Prefix, address: Address): "network" | "broadcast" | null {
  const ipv4 = address.family === 4;
  if (subnet.length >= (ipv4 ? 31 : 127) || !containsAddress(subnet, address)) return null;
  if (sameAddress(address, subnet.address)) return "network";
  return ipv4 && sameAddress(address, lastOf(subnet)) ? "broadcast" : null;
}

/** Scope for source choice (RFC 6724 section 3.1): 2 link-local, 14 global. */
export function scopeOf(address: Address): number {
  return isLinkLocal(address) ? 2 : 14;
}

/** RFC 6724 section 2.1: the labels of the default policy table, the longest match first. */
const labels: readonly (readonly [Prefix, number])[] = (
  [
    ["::1/128", 0],
    ["::ffff:0:0/96", 4],
    ["::/96", 3],
    ["2001::/32", 5],
    ["2002::/16", 2],
    ["3ffe::/16", 12],
    ["fec0::/10", 11],
    ["fc00::/7", 13],
    ["::/0", 1],
  ] as const
).map(([text, label]) => [parsePrefix(text) as Prefix, label]);

/** The label of an IPv6 address for source choice (RFC 6724 section 2.1). */
export function sourceLabel(address: Address): number {
  return labels.find(([prefix]) => containsAddress(prefix, address))?.[1] ?? 1;
}
