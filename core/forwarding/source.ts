import { type Address, commonBits, type Family, sameAddress, scopeOf } from "../address/index.ts";
import { addressAt, addressesOf, type DeviceRecord, type Network } from "../network/index.ts";

/**
 * The address that a device sends from when it leaves by an interface (rule 6.1): one of that interface,
 * else one of another interface of the VRF, loopbacks first. Among several, RFC 6724 section 5: the
 * destination itself (rule 1), a fitting scope (rule 2), the longest common prefix (rule 8) within the
 * source's own subnet (section 2.2). Equals go in document order.
 */
export function chooseSource(
  network: Network,
  device: DeviceRecord,
  out: number,
  destination: Address,
): Address | null {
  const own = ownAddresses(network, out, destination.family);
  if (own.length) return preferred(own, destination);
  const others: number[] = [];
  for (let i = device.firstInterface; i < device.endInterface; i++) {
    if (network.interfaces.vrf[i] === network.interfaces.vrf[out]) others.push(i);
  }
  others.sort((a, b) => network.interfaces.loopback[b] - network.interfaces.loopback[a] || a - b);
  for (const i of others) {
    const list = ownAddresses(network, i, destination.family);
    if (list.length) return preferred(list, destination);
  }
  return null;
}

interface Own {
  readonly address: Address;
  readonly length: number;
}

function ownAddresses(network: Network, i: number, family: Family): Own[] {
  const { addresses, interfaces } = network;
  const list: Own[] = [];
  for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++) {
    if (addresses.family[k] === family) {
      list.push({ address: addressAt(addresses.words, family, k), length: addresses.length[k] });
    }
  }
  return list;
}

function preferred(list: readonly Own[], destination: Address): Address {
  return list.reduce((best, one) => (betterSource(one, best, destination) ? one : best)).address;
}

function betterSource(a: Own, b: Own, destination: Address): boolean {
  if (sameAddress(b.address, destination)) return false;
  if (sameAddress(a.address, destination)) return true;
  const scopes = [scopeOf(a.address), scopeOf(b.address)];
  if (scopes[0] !== scopes[1]) {
    const wanted = scopeOf(destination);
    return scopes[0] < scopes[1] ? scopes[0] >= wanted : scopes[1] < wanted;
  }
  const common = ({ address, length }: Own) => Math.min(length, commonBits(address, destination));
  return common(a) > common(b);
}

/** The address by which a device is meant when it is named as a destination: a loopback's, else its first. */
export function mainAddress(network: Network, device: DeviceRecord, family: Family | null): Address | null {
  const all: { address: Address; loopback: boolean }[] = [];
  for (let i = device.firstInterface; i < device.endInterface; i++) {
    for (const address of addressesOf(network, i, family ?? undefined)) {
      all.push({ address, loopback: network.interfaces.loopback[i] === 1 });
    }
  }
  all.sort((a, b) => a.address.family - b.address.family || Number(b.loopback) - Number(a.loopback));
  return all.find(({ address }) => scopeOf(address) > 2)?.address ?? all[0]?.address ?? null;
}
