import { type Address, containsAddress, type Family, type Prefix, prefixOf } from "../address/index.ts";
import type { Settled } from "./entry.ts";
import type { Ports } from "./interfaces.ts";
import { addressAt } from "./network.ts";
export interface Attachment {
  readonly interface: number;
  readonly vrf: number;
  readonly subnet: Prefix;
  readonly address: Address;
}

/** What a device is attached to. */
export function attachmentsOf(ports: Ports, { firstInterface, endInterface }: Settled): Attachment[] {
  const { interfaces, addresses } = ports;
  const list: Attachment[] = [];
  for (let k = interfaces.addressStart[firstInterface]; k < interfaces.addressStart[endInterface]; k++) {
    const address = addressAt(addresses.words, addresses.family[k] as Family, k);
    const i = addresses.interface[k];
    list.push({
      interface: i,
      vrf: interfaces.vrf[i],
      subnet: prefixOf(address, addresses.length[k]),
      address,
    });
  }
  return list;
}

/** The attachment whose subnet holds the address, the longest where several do; null for none. */
export function nearest(
  attachments: readonly Attachment[],
  vrf: number,
  address: Address,
): Attachment | null {
  let best: Attachment | null = null;
  for (const one of attachments) {
    if (one.vrf !== vrf || !containsAddress(one.subnet, address)) continue;
    if (!best || one.subnet.length > best.subnet.length) best = one;
  }
  return best;
}

export function subnetsOf(ports: Pick<Ports, "interfaces" | "addresses">, i: number): Prefix[] {
  const { interfaces, addresses } = ports;
  const subnets: Prefix[] = [];
  for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++) {
    subnets.push(prefixOf(addressAt(addresses.words, addresses.family[k] as Family, k), addresses.length[k]));
  }
  return subnets;
}
