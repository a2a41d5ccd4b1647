import { type Address, containsAddress, sameAddress } from "../address/index.ts";
import type { DeviceRecord } from "../network/index.ts";
import type { NextHop } from "../routes/index.ts";
import type { Packet, Walk } from "./packet.ts";
import { chooseSource } from "./source.ts";
import type { World } from "./world.ts";

/** A source that a device puts in place. */
export interface NewSource {
  readonly address: Address;
  /** Whether it is that of the exit, whatever that is (`to: interface`). */
  readonly ofExit: boolean;
}

/**
 * The source that a device's translation puts in place when a packet leaves, or null. `to: interface` takes the
 * address that the device would send from itself (rule 6.1). The first entry that fits decides.
 */
export function translatedSource(
  world: World,
  device: DeviceRecord,
  hop: NextHop,
  packet: Packet,
): NewSource | null {
  for (const nat of device.sourceNat) {
    if (nat.out !== hop.out) continue;
    if (nat.from && !nat.from.some((prefix) => containsAddress(prefix, packet.source))) continue;
    if (nat.to && nat.to.family !== packet.source.family) continue;
    const to = nat.to ?? chooseSource(world.state, device, hop, packet.destination, true);
    return to && !sameAddress(to, packet.source) ? { address: to, ofExit: nat.to === null } : null;
  }
  return null;
}

/** Where a device sends a new packet instead, that came in by an interface (rule 6.9); null: where it was sent to. */
export function translatedDestination(
  { destinationNat }: DeviceRecord,
  incoming: number,
  { destination, protocol, port }: Packet,
): { address: Address; port: number | null } | null {
  const nat = destinationNat.find(
    (one) =>
      one.incoming.has(incoming) &&
      sameAddress(one.to, destination) &&
      (one.protocol === null || one.protocol === protocol) &&
      (one.port === null || one.port === port),
  );
  return nat ? { address: nat.via, port: nat.viaPort ?? port } : null;
}

/**
 * The address that a flow was sent to before its destination was translated on the way; the one given where it never
 * got on its way.
 */
export function sentTo({ packet, sessions }: Walk, otherwise: Address): Address {
  if (!packet) return otherwise;
  return sessions.reduceRight(
    (at, { end, original, translated }) =>
      end === "destination" && sameAddress(translated, at) ? original : at,
    packet.destination,
  );
}
