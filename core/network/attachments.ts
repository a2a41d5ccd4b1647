import { type Address, type Family, type Prefix, prefixOf } from "../address/index.ts";
import { addressAt, type Network } from "./network.ts";

/** A subnet and the interface that is attached to it. */
export interface Attachment {
  readonly prefix: Prefix;
  readonly address: Address;
  readonly interface: number;
  readonly device: number;
}

/** Every address of every interface with its subnet, in the order of the plan. */
export function attachmentsOf({ addresses, interfaces }: Network): Attachment[] {
  return Array.from({ length: addresses.count }, (_, k) => {
    const address = addressAt(addresses.words, addresses.family[k] as Family, k);
    const i = addresses.interface[k];
    return {
      prefix: prefixOf(address, addresses.length[k]),
      address,
      interface: i,
      device: interfaces.device[i],
    };
  });
}
