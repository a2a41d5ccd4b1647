import { formatAddress, formatPrefix } from "../address/index.ts";
import { type Settled, worldsOf } from "../convergence/index.ts";
import {
  type Branch,
  carriersOf,
  carriersOfTrip,
  type GatewayRecord,
  type Hop,
  isDoubtful,
  type Question,
  seenOf,
  type Trip,
  type Verdict,
  type Walk,
  type World,
  worksPartly,
  worstTrip,
} from "../forwarding/index.ts";
import type { Network } from "../network/index.ts";
import { dropText } from "../words/index.ts";
import { type Marks, marksOf } from "./marks.ts";
import type { SessionsReport } from "./sessions.ts";

export interface HopReport {
  device: string;
  vrf: string;
  in: string | null;
  match: string | null;
  out: string | null;
  nextHop: string | null;
  to: string | null;
  /** The source that translation put in place here; missing where there was none. */
  translated?: string;
}

export interface WayReport {
  result: "delivered" | "dropped" | "looped";
  hops: HopReport[];
  drop: { device: string; code: string; text: string } | null;
  /** Every way, where routes share the load; the one told above is the worst. */
  paths?: {
    /** The share of the packets that takes it. */
    share: number;
    result: WayReport["result"];
    hops: HopReport[];
    drop: WayReport["drop"];
  }[];
}

export interface SeenReport {
  /** Who answers when the hop limit is 1, 2 and so on, the receiver last; null: nobody. */
  hops: (string | null)[];
  /** Round-trip times to them; missing where no link of the plan has a delay. */
  rttMs?: (number | null)[];
  message: { type: number; code: number; from: string } | null;
}

export function seenReport(world: World, branch: Branch): SeenReport {
  const { hops, rttMs, message } = seenOf(world, branch);
  const delayed = world.state.network.plan.links.some(({ delayMs }) => delayMs);
  return {
    hops: hops.map((address) => address && formatAddress(address)),
    ...(delayed ? { rttMs: [...rttMs] } : {}),
    message: message && { ...message, from: formatAddress(message.from) },
  };
}

export interface PathReport extends Marks {
  verdict: Verdict;
  carriers: string[];
  /** null where the packet or its reply does not arrive. */
  symmetric: boolean | null;
  outbound: WayReport;
  reply: WayReport | null;
  /** Set where watches never come to rest under these failures; the worst of the states is told (rule 9.5). */
  flaps?: true;
  /** What ping and trace show at the sender (rule 6.11): of the worst of several ways. */
  seen: SeenReport;
  /** Addresses of hosts that the plan does not draw and that are taken to answer (rule 2.8). */
  assumed?: string[];
  /** What becomes of what was established before these failures, where new packets work (rule 18). */
  sessions?: SessionsReport;
  paths?: {
    verdict: Verdict;
    carriers: string[];
    symmetric: boolean | null;
    seen: SeenReport;
    outbound: WayReport;
    reply: WayReport | null;
  }[];
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

/** Whether every return path takes the links of its way out; null where one does not arrive. */
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
