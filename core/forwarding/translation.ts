import { type Address, containsAddress, sameAddress } from "../address/index.ts";
import type { DeviceRecord } from "../network/index.ts";
import type { NextHop } from "../rib/index.ts";
import type { Packet } from "./packet.ts";
import { chooseSource } from "./source.ts";
import type { World } from "./world.ts";

/**
 * The source that a device's translation puts in place when a packet leaves, or null. `to: interface` takes the
 * address that the device would send from itself (rule 6.1). The first entry that fits decides.
 */
export function translatedSource(
  world: World,
  device: DeviceRecord,
  hop: NextHop,
  packet: Packet,
): Address | null {
  for (const nat of device.sourceNat) {
    if (nat.out !== hop.out) continue;
    if (nat.from && !nat.from.some((prefix) => containsAddress(prefix, packet.source))) continue;
    if (nat.to && nat.to.family !== packet.source.family) continue;
    const to = nat.to ?? chooseSource(world.state, device, hop, packet.destination);
    return to && !sameAddress(to, packet.source) ? to : null;
  }
  return null;
}
