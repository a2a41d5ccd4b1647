import { formatAddress, formatPrefix } from "../../core/address/index.ts";
import { onceFor } from "../../core/collections/index.ts";
import { meetsExpectation } from "../../core/expectations/index.ts";
import type { Flow } from "../../core/plan/index.ts";
import {
  lookupReport,
  type RouteReport,
  routeReport,
  seenReport,
  symmetryOf,
} from "../../core/reports/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import { outcomeIn, variantsOf } from "../../core/settle/index.ts";
import {
  type Arrival,
  arrivalOf,
  askFrom,
  type Branch,
  breakingInAny,
  carriersOfTrip,
  gatewayOfHop,
  type Hop,
  mustBeDenied,
  type Protocol,
  type Question,
  type Trip,
  type Verdict,
  type Walk,
  type World,
  walkBothWays,
  worstArrival,
  worstTrip,
} from "../../core/walk/index.ts";
import {
  adviceFor,
  breakingText,
  dropText,
  explainTrip,
  icmpText,
  secondsText,
} from "../../core/words/index.ts";

/** The question: a flow of the plan by its id, or any sender and destination. */
export interface FlowQuery {
  flow?: string;
  from?: string;
  source?: string;
  to?: string;
  protocol?: Protocol;
  port?: number;
}

export interface HopView {
  device: string;
  label: string;
  role: string;
  vrf: string | null;
  in: string | null;
  out: string | null;
  match: string | null;
  nextHop: string | null;
  to: string | null;
  /** The link that it leaves by, or null. */
  link: string | null;
  /** Position of the gateway that it leaves by, or -1. */
  gateway: number;
  translated: string | null;
  route: RouteReport | null;
  /** Other candidates that hold the destination, those that nearly decided first. */
  near: RouteReport[];
}

export interface WayView {
  result: Walk["result"];
  hops: HopView[];
  drop: { device: string; code: string; text: string; advice: string } | null;
}

/** What ping and trace show at the sender: who answers each hop limit, after what time, and the message that ends it. */
export interface TraceView {
  hops: { address: string | null; rtt: string }[];
  message: { text: string; from: string } | null;
}

export interface TripView {
  verdict: Verdict;
  /** Positions of the gateways that carry. */
  carriers: number[];
  symmetric: boolean | null;
  outbound: WayView;
  reply: WayView | null;
  ways: number;
}

export interface FlowAnswer {
  asked: {
    flow: string | null;
    label: string;
    from: string;
    source: string;
    to: string;
    protocol: Protocol;
    port: number | null;
  };
  headline: string;
  sentences: string[];
  /** Whether the flow meets its expectation. */
  fine: boolean;
  mustBeDenied: boolean;
  now: TripView;
  seen: TraceView;
  healthy: TripView;
  /** The path that would carry if the current one failed at its gateway; null without one. */
  standby: TripView | null;
}

export interface FlowSummary {
  id: string;
  label: string;
  /** Its expectation, as text; "" without one. */
  expects: string;
  verdict: Verdict;
  healthyVerdict: Verdict;
  carriers: number[];
  healthyCarriers: number[];
  /** How it ended where it fails: a drop code. */
  ended: string | null;
  /** Of a flow that must be denied: how far its packets get. */
  arrival?: Arrival;
  healthyArrival?: Arrival;
  /** Whether it meets its expectation. */
  fine: boolean;
}

type Faring = Pick<FlowSummary, "verdict" | "carriers" | "ended" | "arrival" | "fine">;

/** The result of each valid flow; walked once per scenario, because every page's frame requests it. */
const faringOf = onceFor((scenario: Scenario): ReadonlyMap<string, Faring> => {
  return new Map(
    scenario.flows().map(({ flow, question }) => {
      const outcome = outcomeIn(scenario.world, question, scenario.gateways);
      const { verdict, carriers, ended, arrival } = outcome;
      const fine = meetsExpectation(question, outcome, scenario.world.state.failed.length);
      return [flow.id, { verdict, carriers: [...carriers], ended, fine, ...(arrival ? { arrival } : {}) }];
    }),
  );
});

/** Every flow of the plan, now and with no failures. */
export function summariseFlows(model: Scenario, scenario: Scenario): FlowSummary[] {
  const [now, before] = [faringOf(scenario), faringOf(model)];
  return model.plan.flows.flatMap((flow): FlowSummary[] => {
    const [here, healthy] = [now.get(flow.id), before.get(flow.id)];
    if (!here || !healthy) return [];
    return [
      {
        id: flow.id,
        label: flow.label ?? flow.id,
        expects: expectationText(model, flow),
        ...here,
        healthyVerdict: healthy.verdict,
        healthyCarriers: healthy.carriers,
        ...(healthy.arrival ? { healthyArrival: healthy.arrival } : {}),
      },
    ];
  });
}

/** What a flow's expectations say, in words. */
function expectationText(model: Scenario, { expect = {} }: Flow): string {
  const gateway = (id: string) => model.plan.gateways.find((entry) => entry.id === id)?.label ?? id;
  const device = (id: string) => model.plan.devices.find((entry) => entry.id === id)?.label ?? id;
  const { verdict, carriers, through, symmetric, maxOutageMs, survive } = expect;
  return [
    verdict && "must be denied",
    carriers?.length && `carried by ${carriers.map(gateway).join(", then ")}`,
    through?.length && `through ${through.map(device).join(", ")}`,
    symmetric && "return path equals forward path",
    maxOutageMs !== undefined && `at most ${secondsText(maxOutageMs)} s down`,
    survive && `survives ${survive === 1 ? "any single failure" : `any ${survive} failures`}`,
  ]
    .filter(Boolean)
    .join("; ");
}

function carriers(model: Scenario, trip: Trip): number[] {
  return carriersOfTrip(model.gateways, trip);
}

export type FlowOutcome = { ok: true; answer: FlowAnswer } | { ok: false; message: string } | null;

/** Answers a question; null without one. */
export function answerFlow(
  model: Scenario,
  world: World,
  asked: FlowQuery,
  standby: (ref: string) => World,
  underWay = false,
): FlowOutcome {
  const flow = asked.flow ? model.plan.flows.find((f) => f.id === asked.flow) : undefined;
  if (asked.flow && !flow) return { ok: false, message: `there is no flow ${asked.flow}` };
  const wanted = flow ?? (asked.from && asked.to ? { ...asked, from: asked.from, to: asked.to } : null);
  if (!wanted) return null;
  const { network, healthy } = model.engine;
  const found = askFrom(network, wanted);
  if (!found.ok) return found;
  const { question } = found;
  const worlds = variantsOf(world);
  const { world: worst, trip: now, differs } = worstTrip(worlds, question);
  const before = walkBothWays(healthy.world, question);
  const explained = explainTrip(
    model.gateways,
    { world: healthy.world, trip: before },
    { world: worst, trip: now },
    underWay,
  );
  // As sent: without translations on the path.
  const { packet, sessions } = now.worst.outbound;
  const source = sessions.find(({ end }) => end === "source")?.original ?? packet?.source ?? question.source;
  const denies = flow !== undefined && mustBeDenied(flow);
  const arrival = denies
    ? worstArrival(worlds.map((one) => ({ arrival: arrivalOf(walkBothWays(one, question)) })))
    : undefined;
  return {
    ok: true,
    answer: {
      asked: {
        flow: flow?.id ?? null,
        label: flow?.label ?? `${wanted.from} to ${wanted.to}`,
        from: wanted.from,
        source: question.source ? formatAddress(question.source) : source ? formatAddress(source) : "",
        to: wanted.to,
        protocol: question.protocol,
        port: question.port,
      },
      headline: arrival && arrival !== "lost" ? deniedHeadlines[arrival] : explained.headline,
      fine: meetsExpectation(
        denies ? { ...question, mustBeDenied: true } : question,
        { verdict: now.verdict, arrival },
        world.state.failed.length,
      ),
      mustBeDenied: denies,
      sentences: [
        ...explained.sentences,
        ...(arrival === "lost" && world.state.failed.length === 0 ? [NOT_DENIED] : []),
        ...(differs ? [SPLIT] : []),
        ...(underWay ? [] : brokenSessions(before, now, question, worlds)),
      ],
      now: tripView(model, worst, now),
      seen: seenView(worst, now.worst),
      healthy: tripView(model, healthy.world, before),
      standby: standbyOf(),
    },
  };

  /** What would carry instead: the flow with the interface of its first gateway down too. */
  function standbyOf(): TripView | null {
    const [gateway] = carriers(model, now);
    if (gateway === undefined) return null;
    const hops = now.branches.flatMap(({ outbound }) => outbound.hops);
    const i =
      hops.find((hop) => gatewayOfHop(model.gateways, hop) === gateway)?.out ??
      model.gateways[gateway].interface;
    const { interfaces, devices } = network;
    const other = standby(`interface:${devices[interfaces.device[i]].id}/${interfaces.names[i]}`);
    const trip = walkBothWays(other, question);
    return trip.verdict === "works" ? tripView(model, other, trip) : null;
  }
}

const deniedHeadlines = { denied: "Denied, as expected", arrives: "It arrives, but must be denied" };

const NOT_DENIED = "It must be denied, but it is lost for another reason.";

const SPLIT = "Both members of a pair are active. Packets may reach either; the worse case is shown.";

/** Why established sessions break although new packets work (rule 18). */
function brokenSessions(before: Trip, now: Trip, question: Question, worlds: readonly World[]): string[] {
  if (before.verdict !== "works" || now.verdict !== "works") return [];
  const breaking = breakingInAny(before, question, worlds);
  return breaking
    ? [`Established sessions are lost: ${breakingText(worlds[0].state.network, breaking)}.`]
    : [];
}

function seenView(world: World, worst: Branch): TraceView {
  const { hops, rttMs, message } = seenReport(world, worst);
  return {
    hops: hops.map((address, n) => {
      const rtt = rttMs?.[n] ?? null;
      return { address, rtt: rtt === null ? "" : `${Number(rtt.toFixed(1))} ms` };
    }),
    message: message && {
      text: icmpText(message.from.includes(":") ? 6 : 4, message.type, message.code),
      from: message.from,
    },
  };
}

function tripView(model: Scenario, world: World, trip: Trip): TripView {
  return {
    verdict: trip.verdict,
    carriers: carriers(model, trip),
    symmetric: symmetryOf(trip),
    outbound: wayView(model, world, trip.worst.outbound),
    reply: trip.worst.reply ? wayView(model, world, trip.worst.reply) : null,
    ways: trip.branches.length,
  };
}

function wayView(model: Scenario, world: World, walk: Walk): WayView {
  const { network } = world.state;
  return {
    result: walk.result,
    hops: walk.hops.map((hop) => hopView(model, world, walk, hop)),
    drop: walk.drop && {
      device: network.devices[walk.drop.device].id,
      code: walk.drop.code,
      text: dropText(world.state, walk, walk.drop),
      advice: adviceFor(walk.drop.code),
    },
  };
}

/** The link of the plan that a packet takes: of a bundle, that of the first member that is up. */
function drawnLink({ state }: World, out: number): string | null {
  const { interfaces, links, bundles } = state.network;
  if (out < 0) return null;
  const bundle = interfaces.bundle[out];
  const through = bundle < 0 ? out : (bundles[bundle].members.find((m) => state.carrierUp[m]) ?? out);
  const link = interfaces.link[through];
  return link >= 0 && link < links.planned ? links.ids[link] : null;
}

/** How many near misses a hop lists. */
const NEAR = 3;

function hopView(model: Scenario, world: World, walk: Walk, hop: Hop): HopView {
  const { network } = world.state;
  const { interfaces } = network;
  const device = network.devices[hop.device];
  const route = hop.candidate >= 0 ? routeReport(world, hop.candidate) : null;
  const last = hop === walk.hops[walk.hops.length - 1];
  const delivered = last && walk.result === "delivered";
  return {
    device: device.id,
    label: device.label,
    role: device.role,
    vrf: device.vrfs.length > 1 ? device.vrfs[hop.vrf] : null,
    in: hop.in >= 0 ? interfaces.names[hop.in] : null,
    out: hop.out >= 0 ? interfaces.names[hop.out] : null,
    match: hop.match ? formatPrefix(hop.match) : null,
    nextHop: hop.nextHop ? formatAddress(hop.nextHop) : null,
    to: hop.to >= 0 ? network.devices[hop.to].id : null,
    link: drawnLink(world, hop.out),
    gateway: gatewayOfHop(model.gateways, hop),
    translated: hop.translated ? formatAddress(hop.translated) : null,
    route,
    near: delivered || !walk.packet ? [] : nearMisses(world, walk, hop, route),
  };
}

function nearMisses(world: World, walk: Walk, hop: Hop, route: RouteReport | null): RouteReport[] {
  const device = world.state.network.devices[hop.device];
  const destination = walk.packet?.destination;
  if (!destination) return [];
  const matches = lookupReport(world, hop.device, device.vrfs[hop.vrf], destination).matches;
  const same = (a: RouteReport) =>
    route !== null &&
    a.to === route.to &&
    a.via === route.via &&
    a.out === route.out &&
    a.source === route.source;
  return matches.filter((match) => !same(match) && match.source !== "local").slice(0, NEAR);
}
