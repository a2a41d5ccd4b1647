import {
  type Address,
  compareAddress,
  containsAddress,
  exactCover,
  type Family,
  hostPrefix,
  lastOf,
  makeAddress,
  nextAddress,
  overlaps,
  type Prefix,
  previousAddress,
  specialBlocks,
  widthOf,
} from "../address/index.ts";
import { destinationOf, type Network } from "../network/index.ts";

/** A stretch of addresses, both ends included. */
export interface AddressRange {
  readonly first: Address;
  readonly last: Address;
}

/**
 * The ranges into which the prefixes of one or more networks cut a family's space: within a range, every
 * device treats every address alike (rule 11). Ascending, without gaps. With `within`, only those inside
 * these prefixes.
 */
export function rangesOf(
  networks: readonly Network[],
  family: Family,
  within?: readonly Prefix[],
): AddressRange[] {
  const parts = within && exactCover(within);
  const starts = new Map<string, Address>();
  const cut = (address: Address) =>
    starts.set(`${address.w0} ${address.w1} ${address.w2} ${address.w3}`, address);
  cut(makeAddress(family, 0));
  for (const prefix of networks.flatMap((network) => prefixesOf(network, family)).concat(within ?? [])) {
    if (parts && !parts.some((part) => overlaps(part, prefix))) continue;
    cut(prefix.address);
    const after = nextAddress(lastOf(prefix));
    if (after) cut(after);
  }
  const sorted = [...starts.values()].sort(compareAddress);
  const ranges = sorted.map((first, i) => ({
    first,
    last:
      i + 1 < sorted.length
        ? (previousAddress(sorted[i + 1]) as Address)
        : lastOf({ address: makeAddress(family, 0), length: 0 }),
  }));
  return parts ? ranges.filter(({ first }) => parts.some((part) => containsAddress(part, first))) : ranges;
}

/** Everything in a network that can make one address be treated otherwise than its neighbour. */
function prefixesOf(network: Network, family: Family): Prefix[] {
  const { candidates } = network;
  const list: Prefix[] = [];
  for (let c = 0; c < candidates.count; c++) {
    // Local routes among them cut out every interface's own address.
    if (candidates.family[c] === family) list.push(destinationOf(network, c));
  }
  for (const device of network.devices) {
    for (const nat of device.sourceNat) if (nat.to) list.push(hostPrefix(nat.to));
    for (const rule of device.policy?.rules ?? []) list.push(...rule.destination);
  }
  list.push(...network.announced, ...specialBlocks);
  return list.filter((prefix) => prefix.address.family === family);
}

/** A range as the fewest prefixes, ascending. */
export function prefixesOfRange({ first, last }: AddressRange): Prefix[] {
  const list: Prefix[] = [];
  let at: Address | null = first;
  while (at && compareAddress(at, last) <= 0) {
    let length: number = widthOf(at.family);
    while (length > 0) {
      const wider: Prefix = { address: at, length: length - 1 };
      const starts = isStartOf(at, length - 1);
      if (!starts || compareAddress(lastOf(wider), last) > 0) break;
      length--;
    }
    const prefix: Prefix = { address: at, length };
    list.push(prefix);
    at = nextAddress(lastOf(prefix));
  }
  return list;
}

function isStartOf(address: Address, length: number): boolean {
  const words = [address.w0, address.w1, address.w2, address.w3];
  const bit = words[length >> 5];
  return ((bit >>> (31 - (length & 31))) & 1) === 0;
}
