import { sameAddress } from "../address/index.ts";
import type { Hop, Packet, Session } from "./packet.ts";

/** The hops so far, latest first: diverging paths share their common part. */
export interface Trail {
  readonly hop: Hop;
  /** The packet as it came to the hop's device. */
  readonly packet: Packet;
  readonly before: Trail | null;
  /** Hops, lookups in another VRF of the same device among them. */
  readonly length: number;
  /** Devices that have sent the packet on, the sender first. */
  readonly sentOn: number;
}

/** Where a packet is: at a device, in a VRF, by the interface it came in by (-1 at its sender). */
export interface Place {
  readonly device: number;
  readonly vrf: number;
  readonly in: number;
  readonly packet: Packet;
  readonly trail: Trail | null;
  /** The packet as it came in, before anything was done to it here. */
  readonly arrived: Packet;
  readonly sessions: readonly Session[];
  /** The share of the sender's packets that is here. */
  readonly share: number;
}

/** The trail with one hop more. */
export function onto(place: Place, hop: Hop): Trail {
  const { trail } = place;
  return {
    hop,
    packet: place.arrived,
    before: trail,
    length: (trail?.length ?? 0) + 1,
    sentOn: (trail?.sentOn ?? 0) + (hop.to === hop.device ? 0 : 1),
  };
}

export function hopsOf(trail: Trail | null): Hop[] {
  const hops = new Array<Hop>(trail?.length ?? 0);
  for (let at = trail; at; at = at.before) hops[at.length - 1] = at.hop;
  return hops;
}

/**
 * The devices since the packet was here before: at the same device, by the same arriving interface, in the same
 * VRF and with the same header (rule 6.3). Coming back by another interface is no circle. Null for never.
 */
export function circleOf(place: Place): number[] | null {
  for (let at = place.trail; at; at = at.before) {
    const { hop, packet } = at;
    if (hop.device !== place.device || hop.vrf !== place.vrf || hop.in !== place.in) continue;
    if (!sameAddress(packet.source, place.packet.source)) continue;
    if (!sameAddress(packet.destination, place.packet.destination)) continue;
    return hopsOf(place.trail)
      .slice(at.length - 1)
      .map((passed) => passed.device);
  }
  return null;
}
