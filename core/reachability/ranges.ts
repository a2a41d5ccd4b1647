import {
  type Address,
  compareAddress,
  exactCover,
  type Family,
  hostPrefix,
  lastOf,
  makeAddress,
  nextAddress,
  type Prefix,
  previousAddress,
  sameAddress,
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
 * device treats every address alike (rule 11). Ascending, without gaps.
 */
export function rangesOf(networks: readonly Network[], family: Family): AddressRange[] {
  return rangesBetween(merged(networks.map((network) => startsOf(network, family))));
}

/**
 * The ranges inside some prefixes of one family, into which these and those of a network cut them; one after the
 * other, for whoever asks may soon have enough.
 */
export function* rangesInside(network: Network, within: readonly Prefix[]): Generator<AddressRange> {
  const cuts = cutsOf(within);
  for (const part of exactCover(within))
    yield* rangesOfPart(part, [startsOf(network, part.address.family), cuts]);
}

/** The ranges into which ascending addresses cut a prefix. */
function* rangesOfPart(part: Prefix, lists: readonly (readonly Address[])[]): Generator<AddressRange> {
  const end = lastOf(part);
  const at = lists.map((list) => placeOf(list, (cut) => compareAddress(cut, part.address) > 0));
  for (let first = part.address; ; ) {
    let next: Address | null = null;
    for (const [l, list] of lists.entries()) {
      while (at[l] < list.length && compareAddress(list[at[l]], first) <= 0) at[l]++;
      const cut = list[at[l]];
      if (cut && compareAddress(cut, end) <= 0 && (!next || compareAddress(cut, next) < 0)) next = cut;
    }
    yield { first, last: next ? (previousAddress(next) as Address) : end };
    if (!next) return;
    first = next;
  }
}

/** The first place of an ascending list from which something is so. */
function placeOf(list: readonly Address[], isSo: (at: Address) => boolean): number {
  let [low, high] = [0, list.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (isSo(list[middle])) high = middle;
    else low = middle + 1;
  }
  return low;
}

const known = new WeakMap<Network, Map<Family, readonly Address[]>>();

/** Starts of a network's ranges, ascending; cached. */
function startsOf(network: Network, family: Family): readonly Address[] {
  const families = known.get(network) ?? new Map<Family, readonly Address[]>();
  known.set(network, families);
  let starts = families.get(family);
  if (!starts) {
    starts = merged([[makeAddress(family, 0)], cutsOf(prefixesOf(network, family))]);
    families.set(family, starts);
  }
  return starts;
}

/** The first address of each prefix, and the one after its last; ascending, some of them twice. */
function cutsOf(prefixes: readonly Prefix[]): Address[] {
  const cuts = prefixes.flatMap((prefix) => {
    const after = nextAddress(lastOf(prefix));
    return after ? [prefix.address, after] : [prefix.address];
  });
  return cuts.sort(compareAddress);
}

/** Merges ascending lists and removes duplicates. */
function merged(lists: readonly (readonly Address[])[]): Address[] {
  const at = lists.map(() => 0);
  const all: Address[] = [];
  for (;;) {
    let least = -1;
    for (const [l, list] of lists.entries()) {
      if (at[l] >= list.length) continue;
      if (least < 0 || compareAddress(list[at[l]], lists[least][at[least]]) < 0) least = l;
    }
    if (least < 0) return all;
    const next = lists[least][at[least]++];
    if (all.length === 0 || !sameAddress(all[all.length - 1], next)) all.push(next);
  }
}

function rangesBetween(starts: readonly Address[]): AddressRange[] {
  return starts.map((first, i) => ({
    first,
    last:
      i + 1 < starts.length
        ? (previousAddress(starts[i + 1]) as Address)
        : lastOf({ address: makeAddress(first.family, 0), length: 0 }),
  }));
}

/** Everything in a network by which two adjacent addresses can be treated differently. */
function prefixesOf(network: Network, family: Family): Prefix[] {
  const { candidates } = network;
  const list: Prefix[] = [];
  for (let c = 0; c < candidates.count; c++) {
    // Local routes among them cut out every interface's own address.
    if (candidates.family[c] === family) list.push(destinationOf(network, c));
  }
  for (const device of network.devices) {
    for (const nat of device.sourceNat) if (nat.to) list.push(hostPrefix(nat.to));
    for (const nat of device.destinationNat) list.push(hostPrefix(nat.to), hostPrefix(nat.via));
    for (const by of [...device.policyTables, ...device.marks]) list.push(...(by.to ?? []));
    for (const rule of device.policy?.rules ?? []) list.push(...rule.destination);
  }
  return [...list, ...network.announced, ...specialBlocks].filter(
    (prefix) => prefix.address.family === family,
  );
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
