import {
  type Address,
  commonBits,
  containsAddress,
  type Family,
  isIpv6LinkLocal,
  type Prefix,
  prefixOf,
  sameAddress,
  scopeOf,
  sourceLabel,
} from "../address/index.ts";
import { addressAt, addressesOf, type DeviceRecord, type Network, type State } from "../network/index.ts";
import type { NextHop } from "../routes/index.ts";

/**
 * The address that a device sends from when it leaves by a next hop (rule 6.1). IPv4: of the outgoing interface's
 * addresses, in the order in which they are written, the first whose subnet holds the next hop, else the first; to a
 * destination on the link, that of the connected route that is used, which is the longest; without any, one of another
 * up interface of the VRF, loopbacks first. IPv6: RFC 6724 section 5 over the up interfaces of the VRF. Null where there
 * is none. `translating`: the address that translation to the interface puts in place, which knows no connected route.
 */
export function chooseSource(
  state: Pick<State, "network" | "interfaceUp">,
  device: DeviceRecord,
  hop: NextHop,
  destination: Address,
  translating = false,
): Address | null {
  if (destination.family === 6) {
    return bestIpv6(state.network, [hop.out, ...othersUp(state, device, hop.out)], destination);
  }
  const own = ownAddresses(state.network, hop.out, 4);
  if (own.length === 0) {
    for (const i of othersUp(state, device, hop.out)) {
      const [first] = ownAddresses(state.network, i, 4);
      if (first) return first.address;
    }
    return null;
  }
  const near = own.filter(({ subnet }) => containsAddress(subnet, hop.address ?? destination));
  if (hop.address || translating) return (near[0] ?? own[0]).address;
  return near.reduce((a, b) => (b.subnet.length > a.subnet.length ? b : a), near[0] ?? own[0]).address;
}

/** The other up interfaces of the VRF, loopbacks first. */
function othersUp(
  { network, interfaceUp }: Pick<State, "network" | "interfaceUp">,
  device: DeviceRecord,
  out: number,
): number[] {
  const { vrf, loopback } = network.interfaces;
  const others: number[] = [];
  for (let i = device.firstInterface; i < device.endInterface; i++) {
    if (i !== out && vrf[i] === vrf[out] && interfaceUp[i] === 1) others.push(i);
  }
  return others.sort((a, b) => loopback[b] - loopback[a] || a - b);
}

interface Own {
  readonly address: Address;
  readonly subnet: Prefix;
}

function ownAddresses(network: Network, i: number, family: Family): Own[] {
  const { addresses, interfaces } = network;
  const list: Own[] = [];
  for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++) {
    if (addresses.family[k] !== family) continue;
    const address = addressAt(addresses.words, family, k);
    list.push({ address, subnet: prefixOf(address, addresses.length[k]) });
  }
  return list;
}

/** The best source by RFC 6724 section 5; `ports` begins with the outgoing interface. Equals go in their order. */
function bestIpv6(network: Network, ports: readonly number[], destination: Address): Address | null {
  let best: (Own & { readonly leaves: boolean }) | null = null;
  for (const [n, i] of ports.entries()) {
    for (const own of ownAddresses(network, i, 6)) {
      // A link-local address of another interface means nothing on this one (RFC 4007).
      if (n > 0 && isIpv6LinkLocal(own.address)) continue;
      const one = { ...own, leaves: n === 0 };
      if (!best || betterSource(one, best, destination)) best = one;
    }
  }
  return best?.address ?? null;
}

function betterSource(
  a: Own & { leaves: boolean },
  b: Own & { leaves: boolean },
  destination: Address,
): boolean {
  // Rule 1: the destination itself.
  if (sameAddress(b.address, destination)) return false;
  if (sameAddress(a.address, destination)) return true;
  // Rule 2: a fitting scope.
  const scopes = [scopeOf(a.address), scopeOf(b.address)];
  if (scopes[0] !== scopes[1]) {
    const wanted = scopeOf(destination);
    return scopes[0] < scopes[1] ? scopes[0] >= wanted : scopes[1] < wanted;
  }
  // Rule 5: the outgoing interface.
  if (a.leaves !== b.leaves) return a.leaves;
  // Rule 6: a matching label.
  const wanted = sourceLabel(destination);
  const labels = [sourceLabel(a.address) === wanted, sourceLabel(b.address) === wanted];
  if (labels[0] !== labels[1]) return labels[0];
  // Rule 8: the longest common prefix, within the source's own subnet (section 2.2).
  const common = ({ address, subnet }: Own) => Math.min(subnet.length, commonBits(address, destination));
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
