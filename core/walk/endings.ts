import type { Address } from "../address/index.ts";
import type { NextHop } from "../routes/index.ts";
import type { Drop, DropCode, Hop, Packet, Walk } from "./packet.ts";
import { hopsOf, type Place } from "./trail.ts";

/** A place whose packet may still be unknown. */
export type PartialPlace = Omit<Place, "packet" | "arrived"> & {
  packet: Packet | null;
  arrived: Packet | null;
};

/** Details of a drop besides its code and place; `ended` if the last hop already shows the end of the walk. */
export type DropDetails = Partial<Omit<Drop, "code" | "device" | "packet">> & { ended?: boolean };

/** The hop of a packet that leaves by a candidate (-1 for none) to a next hop. */
export function hopAt(
  place: Place,
  match: Hop["match"],
  candidate: number,
  nextHop: NextHop | null,
  to: number,
  translated: Address | null,
): Hop {
  return {
    device: place.device,
    vrf: place.vrf,
    in: place.in,
    match,
    candidate,
    out: nextHop?.out ?? -1,
    nextHop: nextHop?.address ?? null,
    to,
    translated,
  };
}

/** A walk that ends at a place, marked as dropped by default. */
export function endedAt(place: PartialPlace, hops: Hop[]): Walk {
  return {
    result: "dropped",
    hops,
    drop: null,
    packet: place.packet,
    sessions: place.sessions,
    share: place.share,
    vrf: place.vrf,
  };
}

/** A walk that is dropped at a place; a hop without an egress is added unless the last hop already shows it. */
export function droppedAt(place: PartialPlace, code: DropCode, more: DropDetails): Walk {
  const { ended, ...told } = more;
  const drop: Drop = {
    code,
    device: place.device,
    packet: place.packet,
    address: null,
    out: -1,
    neighbour: -1,
    zones: null,
    circle: [],
    ...told,
  };
  const hops = hopsOf(place.trail);
  const last: Hop = {
    device: place.device,
    vrf: place.vrf,
    in: place.in,
    match: null,
    candidate: -1,
    out: -1,
    nextHop: null,
    to: -1,
    translated: null,
  };
  return { ...endedAt(place, ended ? hops : [...hops, last]), drop };
}
