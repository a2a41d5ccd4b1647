import {
  type Address,
  containsAddress,
  type Family,
  type Prefix,
  prefixOf,
  widthOf,
} from "../address/index.ts";
import { addTo } from "../collections/index.ts";
import type { Settled } from "./entry.ts";
import type { Ports } from "./interfaces.ts";
import { addressAt } from "./network.ts";
export interface Attachment {
  readonly interface: number;
  readonly vrf: number;
  readonly subnet: Prefix;
  readonly address: Address;
}

/** What a device is attached to, found by address, by interface, and by the longest subnet that holds an address. */
export class Attached {
  private readonly byAddress = new Map<Key, Attachment[]>();
  private readonly byInterface = new Map<number, Attachment[]>();
  private readonly bySubnet = new Map<Key, Attachment>();
  /** Lengths of the subnets of a VRF and family, longest first. */
  private readonly lengths = new Map<number, number[]>();

  constructor(ports: Ports, { firstInterface, endInterface }: Settled) {
    const { interfaces, addresses } = ports;
    for (let k = interfaces.addressStart[firstInterface]; k < interfaces.addressStart[endInterface]; k++) {
      const address = addressAt(addresses.words, addresses.family[k] as Family, k);
      const i = addresses.interface[k];
      const subnet = prefixOf(address, addresses.length[k]);
      const one = { interface: i, vrf: interfaces.vrf[i], subnet, address };
      addTo(this.byAddress, keyOf(one.vrf, address, widthOf(address.family)), one);
      addTo(this.byInterface, i, one);
      const key = keyOf(one.vrf, subnet.address, subnet.length);
      // Of several that stand on one subnet, the first counts.
      if (!this.bySubnet.has(key)) this.bySubnet.set(key, one);
      const family = one.vrf * 8 + address.family;
      const lengths = this.lengths.get(family) ?? [];
      if (!lengths.includes(subnet.length)) {
        this.lengths.set(
          family,
          [...lengths, subnet.length].sort((a, b) => b - a),
        );
      }
    }
  }

  /** The device's own interfaces in a VRF that have an address. */
  owning(vrf: number, address: Address): readonly Attachment[] {
    return this.byAddress.get(keyOf(vrf, address, widthOf(address.family))) ?? [];
  }

  /** Whether a subnet of an interface holds an address. */
  holdsOn(i: number, address: Address): boolean {
    return (this.byInterface.get(i) ?? []).some((a) => containsAddress(a.subnet, address));
  }

  /** The attachment whose subnet holds the address, the longest where several do; null for none. */
  nearest(vrf: number, address: Address): Attachment | null {
    for (const length of this.lengths.get(vrf * 8 + address.family) ?? []) {
      const found = this.bySubnet.get(keyOf(vrf, prefixOf(address, length).address, length));
      if (found) return found;
    }
    return null;
  }
}

/** What a prefix in a VRF is found by: for IPv4 one number, exact as long as it has 53 bits. */
export type Key = number | string;

export function keyOf(vrf: number, { family, w0, w1, w2, w3 }: Address, length: number): Key {
  return family === 4 ? (vrf * 2 ** 32 + w0) * 64 + length : `${vrf} ${w0}.${w1}.${w2}.${w3}/${length}`;
}

export function subnetsOf(ports: Pick<Ports, "interfaces" | "addresses">, i: number): Prefix[] {
  const { interfaces, addresses } = ports;
  const subnets: Prefix[] = [];
  for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++) {
    subnets.push(prefixOf(addressAt(addresses.words, addresses.family[k] as Family, k), addresses.length[k]));
  }
  return subnets;
}
