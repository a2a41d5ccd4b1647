import {
  type Address,
  compareAddress,
  type Family,
  makeAddress,
  sameAddress,
  widthOf,
  wordMask,
} from "./address.ts";
import { formatAddress, parseAddress } from "./text.ts";

/** A prefix: its network address, with no host bits set, and its length in bits. */
export interface Prefix {
  readonly address: Address;
  readonly length: number;
}

/** The first address of the block of `length` bits that holds the address. */
export function networkOf(address: Address, length: number): Address {
  return makeAddress(
    address.family,
    address.w0 & wordMask(length, 0),
    address.w1 & wordMask(length, 1),
    address.w2 & wordMask(length, 2),
    address.w3 & wordMask(length, 3),
  );
}

/** The block of `length` bits that holds the address. */
export function prefixOf(address: Address, length: number): Prefix {
  return { address: networkOf(address, length), length };
}

/** The prefix of one address alone. */
export function hostPrefix(address: Address): Prefix {
  return { address, length: widthOf(address.family) };
}

export function defaultPrefix(family: Family): Prefix {
  return { address: makeAddress(family, 0), length: 0 };
}

/** The last address of a prefix. */
export function lastOf(prefix: Prefix): Address {
  const { address, length } = prefix;
  const host = (i: number) => (address.family === 4 && i > 0 ? 0 : ~wordMask(length, i));
  return makeAddress(
    address.family,
    address.w0 | host(0),
    address.w1 | host(1),
    address.w2 | host(2),
    address.w3 | host(3),
  );
}

export function containsAddress(prefix: Prefix, address: Address): boolean {
  return (
    prefix.address.family === address.family && sameAddress(networkOf(address, prefix.length), prefix.address)
  );
}

/** Whether the outer prefix covers every address of the inner one; a prefix contains itself. */
export function containsPrefix(outer: Prefix, inner: Prefix): boolean {
  return outer.length <= inner.length && containsAddress(outer, inner.address);
}

export function overlaps(a: Prefix, b: Prefix): boolean {
  return containsPrefix(a, b) || containsPrefix(b, a);
}

export function samePrefix(a: Prefix, b: Prefix): boolean {
  return a.length === b.length && sameAddress(a.address, b.address);
}

/** Order: by family and address, the wider first among those that start alike. */
export function comparePrefix(a: Prefix, b: Prefix): number {
  return compareAddress(a.address, b.address) || a.length - b.length;
}

export function formatPrefix(prefix: Prefix): string {
  return `${formatAddress(prefix.address)}/${prefix.length}`;
}

/** An interface address with its length, host bits kept: "198.51.100.2/30". */
export interface InterfaceAddress {
  readonly address: Address;
  readonly length: number;
}

/** Reads "address/length" and keeps host bits. Null if the text has another form. */
export function parseInterfaceAddress(text: string): InterfaceAddress | null {
  const slash = text.indexOf("/");
  if (slash < 0) return null;
  const address = parseAddress(text.slice(0, slash));
  const digits = text.slice(slash + 1);
  if (!address || !/^(0|[1-9]\d{0,2})$/.test(digits)) return null;
  const length = Number(digits);
  return length <= widthOf(address.family) ? { address, length } : null;
}

/** Reads a prefix; null if the text is not a prefix or has host bits set (see `hostBitsSet`). */
export function parsePrefix(text: string): Prefix | null {
  const read = parseInterfaceAddress(text);
  return read && !hostBitsSet(read) ? read : null;
}

/** A prefix, or an address as the prefix that holds it alone; null for anything else. */
export function parsePrefixOrHost(text: string): Prefix | null {
  const address = parseAddress(text);
  return parsePrefix(text) ?? (address && hostPrefix(address));
}

/** Whether an address with a length is no network address: "172.20.16.10/24". */
export function hostBitsSet(value: InterfaceAddress): boolean {
  return !sameAddress(networkOf(value.address, value.length), value.address);
}

/** The prefix length of a dotted mask such as 255.255.240.0; null unless it is ones followed by zeros (RFC 4632, 3.1).
 * */
export function lengthOfMask(text: string): number | null {
  if (!/^255\.\d+\.\d+\.\d+$|^[012]\d*\.0\.0\.0$/.test(text)) return null;
  const address = parseAddress(text);
  if (!address) return null;
  const inverse = ~address.w0 >>> 0;
  return (inverse & (inverse + 1)) === 0 ? Math.clz32(inverse) : null;
}
