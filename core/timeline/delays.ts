import { sameAddress } from "../address/index.ts";
import {
  mediumCodes,
  type Network,
  ownerOnLink,
  restsOnOwnRole,
  type State,
  sourceCodes,
  viaOf,
  type WatchRecord,
} from "../network/index.ts";
import type { BfdSession, WatchGroup } from "../plan/index.ts";
import { sessionPartner } from "../settle/index.ts";

/** A learned route that does not say how long it outlives its neighbor (rule 3.3). */
export function isTimeless({ candidates, plan }: Network, c: number): boolean {
  if (candidates.source[c] !== sourceCodes.learned) return false;
  return plan.devices[candidates.device[c]].learned[candidates.order[c]]?.lostAfterMs === undefined;
}

/** What shows a device that the neighbor of a route is gone. */
interface Witnesses {
  /** The interface towards it, or -1. */
  readonly out: number;
  /** Its BFD sessions with it, by the numbers of their watches. */
  readonly sessions: readonly number[];
}

export function witnessesOf(network: Network, c: number): Witnesses {
  const { candidates, watches, devices, interfaces } = network;
  const { index, firstInterface, endInterface } = devices[candidates.device[c]];
  const via = viaOf(network, c);
  const sessions = watches.filter(
    ({ device, watch, peer }) =>
      device === index && watch.kind === "bfd" && via !== null && peer !== null && sameAddress(peer, via),
  );
  let out = candidates.out[c];
  for (let i = firstInterface; out < 0 && via && i < endInterface; i++)
    if (ownerOnLink(network, i, via, -1) >= 0 && interfaces.link[i] >= 0) out = i;
  return { out, sessions: sessions.map((record) => record.index) };
}

/** How long something takes to be believed, in milliseconds: at least and at most. */
export interface Delay {
  readonly min: number;
  readonly max: number;
}

const exactly = (ms: number): Delay => ({ min: ms, max: ms });
const atOnce = exactly(0);

/**
 * BFD detection at one end (RFC 5880 section 6.8.4): the other end's multiplier times the greater of this
 * end's required minimum receive interval and the other's minimum transmit interval. It runs from the last
 * packet received, so from the failure it takes at least one such interval less. Jitter is not counted.
 */
export function bfdDetection(local: BfdSession, remote: BfdSession): Delay {
  const interval = Math.max(local.minRxMs, remote.minTxMs);
  const detection = remote.multiplier * interval;
  return { min: detection - interval, max: detection };
}

/** The delay from the moment the link passes until a session is up. While down, each end sends every second, or more
 * slowly if its own minimum transmit or the other's required minimum receive interval is longer (RFC 5880, sections
 * 6.8.3 and 6.8.7). One packet each way brings it up: 0 to twice the greater interval. */
export function bfdUp(one: BfdSession, other: BfdSession): Delay {
  const interval = (own: BfdSession, far: BfdSession) => Math.max(1000, own.minTxMs, far.minRxMs);
  return { min: 0, max: 2 * Math.max(interval(one, other), interval(other, one)) };
}

/** The time from a change of a watch's reading to the change of its state. Probes have clocks instead: `ProbeClocks`. */
export function watchDelay(network: Network, record: WatchRecord, up: boolean): Delay {
  const { watch } = record;
  switch (watch.kind) {
    case "interface":
    case "route":
    case "probe":
      return atOnce;
    case "bfd": {
      const partner = sessionPartner(network, record);
      if (!partner) return atOnce;
      const other = partner.watch as BfdSession;
      return up ? bfdUp(watch, other) : bfdDetection(watch, other);
    }
    case "group": {
      const group: WatchGroup = watch;
      return exactly((up ? group.upDelayMs : group.downDelayMs) ?? 0);
    }
  }
}

/** Ends of a bundle wait three intervals for missing control packets (IEEE 802.1AX). */
const LACP_TIMES = 3;
/** An end without a partner sends every second. */
const LACP_UP_MS = 1000;

/**
 * From loss or return of carrier to the interface being taken down or up; for tunnels, the keepalives; for members of
 * bundles over a silent medium, what their ends assure each other (rule 15.1).
 */
export function interfaceDelay(
  { network, linkAlive }: Pick<State, "network" | "linkAlive">,
  i: number,
  up: boolean,
  ownDoing: boolean,
): Delay {
  const { interfaces, links, bundles, tunnels, devices } = network;
  const tunnel = interfaces.tunnel[i];
  // A bundle follows its members, a tagged interface the one that it passes.
  if (ownDoing || interfaces.bundle[i] >= 0 || interfaces.parent[i] >= 0) return atOnce;
  if (tunnel >= 0) {
    const { keepaliveMs, failAfter } = tunnels[tunnel];
    if (up) return { min: 0, max: keepaliveMs };
    return { min: (failAfter - 1) * keepaliveMs, max: failAfter * keepaliveMs };
  }
  const bundle = interfaces.memberOf[i] < 0 ? null : bundles[interfaces.memberOf[i]];
  const link = interfaces.link[i];
  if (bundle?.assured[bundle.members.indexOf(i)] && link >= 0) {
    const medium = links.medium[link];
    const silent = medium === mediumCodes.circuit || (medium === mediumCodes.switch && linkAlive[link] === 1);
    if (silent && up) return { min: 0, max: LACP_UP_MS };
    if (silent) return { min: (LACP_TIMES - 1) * bundle.lacpMs, max: LACP_TIMES * bundle.lacpMs };
  }
  return exactly(devices[interfaces.device[i]].profile.carrierDelayMs);
}

/**
 * From a neighbour's silence to its routes being dropped (rules 3.3 and 7.1); answers are believed at once, but learned
 * routes take their time to return (rule 10.5).
 */
export function answerDelay(
  { network, carrier }: Pick<State, "network" | "carrier">,
  candidate: number,
  up: boolean,
  watchUp: Uint8Array,
): Delay {
  const { candidates } = network;
  const device = network.devices[candidates.device[candidate]];
  if (restsOnOwnRole(network, candidate)) return atOnce;
  if (candidates.source[candidate] === sourceCodes.learned) {
    const learned = network.plan.devices[device.index].learned[candidates.order[candidate]];
    if (up || !isTimeless(network, candidate))
      return exactly((up ? learned?.backAfterMs : learned?.lostAfterMs) ?? 0);
    const { out, sessions } = witnessesOf(network, candidate);
    const isSeen = (out >= 0 && !carrier[out]) || sessions.some((w) => !watchUp[w]);
    return isSeen ? atOnce : { min: 0, max: Number.POSITIVE_INFINITY };
  }
  if (up) return atOnce;
  if (candidates.source[candidate] === sourceCodes.announced) return atOnce;
  return device.profile.deadGatewayMs ?? atOnce;
}

/** From the moment that nothing reaches an interface any more to its device having forgotten its neighbors there (rule 2.6). */
export function neighbourAge({ devices, interfaces }: Network, i: number, gone: boolean): Delay {
  return (gone && devices[interfaces.device[i]].profile.neighbourAgeMs) || atOnce;
}
