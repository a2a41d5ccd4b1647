import { type Address, commonBits, type Family, sameAddress, scopeOf } from "../address/index.ts";
import { addressesOf, type DeviceRecord, type Network } from "../network/index.ts";

/**
 * The address that a device sends from when it leaves by an interface (rule 6.1): one of that interface,
 * else one of another interface of the VRF, loopbacks first. Among several, RFC 6724 section 5: the
 * destination itself (rule 1), a fitting scope (rule 2), the longest common prefix (rule 8).
 */
export function chooseSource(
  network: Network,
  device: DeviceRecord,
  out: number,
  destination: Address,
): Address | null {
  const own = addressesOf(network, out, destination.family);
  if (own.length) return preferred(own, destination);
  const others: number[] = [];
  for (let i = device.firstInterface; i < device.endInterface; i++) {
    if (network.interfaces.vrf[i] === network.interfaces.vrf[out]) others.push(i);
  }
  others.sort((a, b) => network.interfaces.loopback[b] - network.interfaces.loopback[a] || a - b);
  for (const i of others) {
    const list = addressesOf(network, i, destination.family);
    if (list.length) return preferred(list, destination);
  }
  return null;
}

function preferred(list: readonly Address[], destination: Address): Address {
  return list.reduce((best, one) => (betterSource(one, best, destination) ? one : best));
}

function betterSource(a: Address, b: Address, destination: Address): boolean {
  if (sameAddress(b, destination)) return false;
  if (sameAddress(a, destination)) return true;
  const scopes = [scopeOf(a), scopeOf(b)];
  if (scopes[0] !== scopes[1]) {
    const wanted = scopeOf(destination);
    return scopes[0] < scopes[1] ? scopes[0] >= wanted : scopes[1] < wanted;
  }
  return commonBits(a, destination) > commonBits(b, destination);
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
