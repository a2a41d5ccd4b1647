import type { Family } from "../address/index.ts";
import type { Attachment } from "../network/index.ts";
import type { Context } from "./context.ts";

/** How far a device is over devices that forward, and by which neighbour's address the way starts. */
export interface Reach {
  readonly hops: number;
  readonly first: Attachment | null;
}

/** Distance in links of every device from a set of devices, ignoring routes; `without` excludes a device. With a
 * family, only links with an address of it at both ends count. */
export function reachFrom(
  context: Context,
  from: number,
  { family, without = -1 }: { family?: Family; without?: number } = {},
): Map<number, Reach> {
  const { interfaces, devices } = context.network;
  const { onLink, onDevice } = context.places;
  const reach = new Map<number, Reach>([[from, { hops: 0, first: null }]]);
  const open = [from];
  for (let n = 0; n < open.length; n++) {
    const d = open[n];
    if (d !== from && ["host", "internet", "provider"].includes(devices[d].role)) continue;
    const here = reach.get(d) as Reach;
    for (const own of onDevice.get(d) ?? []) {
      if (family && own.address.family !== family) continue;
      for (const a of onLink.get(interfaces.link[own.interface]) ?? []) {
        if (a.device === without || reach.has(a.device) || a.address.family !== own.address.family) continue;
        reach.set(a.device, { hops: here.hops + 1, first: here.first ?? a });
        open.push(a.device);
      }
    }
  }
  return reach;
}
