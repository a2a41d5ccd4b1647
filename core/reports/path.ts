import { formatAddress, formatPrefix } from "../address/index.ts";
import type { Network } from "../network/index.ts";
import { type Settled, worldsOf } from "../settle/index.ts";
import {
  type Branch,
  carriersOf,
  carriersOfTrip,
  type GatewayRecord,
  type Hop,
  isDoubtful,
  type Question,
  type Trip,
  traceViewOf,
  type Walk,
  type World,
  worksPartly,
  worstTrip,
} from "../walk/index.ts";
import { dropText } from "../words/index.ts";
import { marksOf } from "./marks.ts";
import type { HopReport, PathReport, TraceReport, WayReport } from "./schemas.ts";

export function seenReport(world: World, branch: Branch): TraceReport {
  const { hops, rttMs, message } = traceViewOf(world, branch);
  const delayed = world.state.network.plan.links.some(({ delayMs }) => delayMs);
  return {
    hops: hops.map((address) => address && formatAddress(address)),
    ...(delayed ? { rttMs: [...rttMs] } : {}),
    message: message && { ...message, from: formatAddress(message.from) },
  };
}

/**
 * Both ways of a flow in a steady state: the worst of the worlds that it may be in. Where it is not known which of a pair carries,
 * all that may are named (rules 10.1 and 17).
 */
export function steadyPathReport(
  settled: Settled,
  gateways: readonly GatewayRecord[],
  question: Question,
): PathReport {
  const { world, trip, trips, differs } = worstTrip(worldsOf(settled), question);
  const report = pathReport(world, gateways, trip);
  if (settled.flapping.length > 0) return { ...report, flaps: true };
  if (!differs) return report;
  const carriers = [trip, ...trips].flatMap((one) => carriersOfTrip(gateways, one));
  return { ...report, carriers: [...new Set(carriers)].map((g) => gateways[g].id), uncertain: true };
}

/** Both ways of a flow, as `path` prints them. */
export function pathReport(world: World, gateways: readonly GatewayRecord[], trip: Trip): PathReport {
  const { worst, branches } = trip;
  const outWalks = distinct(branches.map((branch) => branch.outbound));
  const backWalks = distinct(branches.flatMap((branch) => (branch.reply ? [branch.reply] : [])));
  const ids = (walks: readonly Walk[]) => carriersOf(gateways, walks).map((g) => gateways[g].id);
  const report: PathReport = {
    verdict: trip.verdict,
    carriers: ids(outWalks),
    symmetric: symmetryOf(trip),
    outbound: withPaths(world, worst.outbound, outWalks),
    reply: worst.reply ? withPaths(world, worst.reply, backWalks) : null,
    seen: seenReport(world, worst),
    ...marksOf({ partly: worksPartly(trip), uncertain: isDoubtful(world.state, trip) }),
  };
  const assumed = assumedIn(trip);
  if (assumed.length > 0) report.assumed = assumed;
  if (branches.length > 1) {
    report.paths = branches.map((branch: Branch) => ({
      seen: seenReport(world, branch),
      verdict: branch.verdict,
      carriers: ids([branch.outbound]),
      symmetric: branch.symmetric,
      outbound: wayReport(world, branch.outbound),
      reply: branch.reply ? wayReport(world, branch.reply) : null,
    }));
  }
  return report;
}

/** The addresses of hosts that the plan does not draw on which a flow's verdict rests. */
export function assumedIn({ branches }: Trip): string[] {
  return [
    ...new Set(
      branches.flatMap(({ outbound: { assumed, packet } }) =>
        assumed && packet ? [formatAddress(packet.destination)] : [],
      ),
    ),
  ];
}

/** Whether every return path uses the links of its forward path; null if a packet does not arrive. */
export function symmetryOf(trip: Trip): boolean | null {
  if (trip.branches.some((branch) => branch.symmetric === null)) return null;
  return trip.branches.every((branch) => branch.symmetric);
}

function distinct(walks: readonly Walk[]): Walk[] {
  return [...new Set(walks)];
}

function withPaths(world: World, worst: Walk, all: readonly Walk[]): WayReport {
  const report = wayReport(world, worst);
  return all.length > 1
    ? { ...report, paths: all.map((walk) => ({ share: walk.share, ...wayReport(world, walk) })) }
    : report;
}

function wayReport(world: World, walk: Walk): WayReport {
  const { network } = world.state;
  return {
    result: walk.result,
    hops: walk.hops.map((hop) => hopReport(network, hop)),
    drop: walk.drop && {
      device: network.devices[walk.drop.device].id,
      code: walk.drop.code,
      text: dropText(world.state, walk, walk.drop),
    },
  };
}

function hopReport(network: Network, hop: Hop): HopReport {
  const { interfaces, devices } = network;
  const device = devices[hop.device];
  const report: HopReport = {
    device: device.id,
    vrf: device.vrfs[hop.vrf],
    in: hop.in >= 0 ? interfaces.names[hop.in] : null,
    match: hop.match ? formatPrefix(hop.match) : null,
    out: hop.out >= 0 ? interfaces.names[hop.out] : null,
    nextHop: hop.nextHop ? formatAddress(hop.nextHop) : null,
    to: hop.to >= 0 ? devices[hop.to].id : null,
  };
  if (hop.translated) report.translated = formatAddress(hop.translated);
  return report;
}
