import {
  type Address,
  type Family,
  isIpv6LinkLocal,
  parseAddress,
  parseZonedAddress,
} from "../address/index.ts";
import { onceFor } from "../collections/index.ts";
import {
  addressesOf,
  type DeviceRecord,
  type EdgeNetwork,
  entriesFrom,
  matesOf,
  type Network,
  ownInterface,
} from "../network/index.ts";
import type { Flow } from "../plan/index.ts";
import { parseEnd } from "../plan/index.ts";
import type { Drop, Hop, Protocol, Walk } from "./packet.ts";
import { mainAddress } from "./source.ts";
import { type Question, walkPacket } from "./walk.ts";
import type { World } from "./world.ts";

/** `unknown`: a path leads beyond a device behind which the network is not modeled. */
export type Verdict = "works" | "one-way" | "fails" | "unknown";

/** Verdicts by how bad they are, the worst first. */
export const verdictRank: Record<Verdict, number> = { fails: 0, "one-way": 1, unknown: 2, works: 3 };

/** The first of those with the worst verdict; the list is not empty. */
export function worstOf<T extends { readonly verdict: Verdict }>(several: readonly T[]): T {
  return several.reduce((a, b) => (verdictRank[b.verdict] < verdictRank[a.verdict] ? b : a));
}

/**
 * How far the packets of a flow get that must be denied: all are denied by policy or by a discard or reject route; some
 * arrive; or none arrives and some are lost for another reason.
 */
export type Arrival = "denied" | "lost" | "arrives";

const denials: readonly (string | undefined)[] = ["policy-denied", "discarded", "rejected"];

export function arrivalOf({ branches }: Trip): Arrival {
  const ends = branches.map(({ outbound }) => outbound);
  if (ends.some(({ result }) => result === "delivered")) return "arrives";
  return ends.every(({ drop }) => denials.includes(drop?.code)) ? "denied" : "lost";
}

/** Of several arrivals the worst for a flow that must be denied; undefined for a flow that must work. */
export function worstArrival(several: readonly { readonly arrival?: Arrival }[]): Arrival | undefined {
  const found = several.map(({ arrival }) => arrival);
  return (["arrives", "lost", "denied"] as const).find((one) => found.includes(one));
}

/** Whether a flow meets its expectation under a failure: it works or, if it must be denied, no packet arrives. */
export function doesAsExpected(
  { mustBeDenied }: Question,
  { verdict, arrival }: { readonly verdict: Verdict; readonly arrival?: Arrival },
): boolean {
  return mustBeDenied ? arrival !== "arrives" : verdict === "works";
}

/** One way out with one return path. */
export interface Branch {
  readonly verdict: Verdict;
  readonly outbound: Walk;
  readonly reply: Walk | null;
  /** Whether the reply takes the same links the other way; null where it does not arrive. */
  readonly symmetric: boolean | null;
  /** Which of several gateways an assumed host answers by is not known, and they differ (rule 2.8). */
  readonly uncertain?: true;
}

/** Both ways of a flow. Where routes share the load there are several branches, and the worst decides. */
export interface Trip {
  readonly verdict: Verdict;
  readonly branches: readonly Branch[];
  /** The branch that decides: the first of the worst. */
  readonly worst: Branch;
}

/** Whether a flow works on some paths only: the verdict is the worst, and packets on the others arrive. */
export function worksPartly({ verdict, branches }: Trip): boolean {
  return verdict !== "works" && branches.some((branch) => branch.verdict === "works");
}

/** Walks a packet and its reply (rule 6). */
export function walkBothWays(world: World, question: Question): Trip {
  const walks = walkPacket(world, question);
  const branches =
    walks.length === 1 ? answersTo(world, question, walks[0]) : branchesOf(world, question, walks);
  const worst = worstOf(branches);
  return { verdict: worst.verdict, branches, worst };
}

/** The trips in several possible worlds: the worst one, its world, and whether any of the others differs from it. */
export function worstTrip(
  worlds: readonly World[],
  question: Question,
): { world: World; trip: Trip; trips: readonly Trip[]; differs: boolean } {
  const trips = worlds.map((world) => ({ world, trip: walkBothWays(world, question) }));
  const worst = trips.reduce((a, b) => (verdictRank[b.trip.verdict] < verdictRank[a.trip.verdict] ? b : a));
  const [first, ...others] = trips.map(({ trip }) => hopsText(trip));
  return { ...worst, trips: trips.map(({ trip }) => trip), differs: others.some((other) => other !== first) };
}

function hopsText({ branches }: Trip): string {
  const text = (walk: Walk | null) => walk?.hops.map((hop) => `${hop.device} ${hop.out}`).join();
  return branches.map(({ outbound, reply }) => `${text(outbound)} ${text(reply)}`).join("|");
}

function branchesOf(world: World, question: Question, walks: readonly Walk[]): Branch[] {
  const answered = new Map<string, Branch>();
  return walks.flatMap((outbound) => {
    // Ways over the same devices get the same replies: the first lists them all, the others take the worst.
    const key = replyKey(outbound);
    const known = answered.get(key);
    if (known) return [{ ...known, outbound, symmetric: symmetryOf(world, outbound, known.reply) }];
    const own = answersTo(world, question, outbound);
    if (outbound.result === "delivered") answered.set(key, worstOf(own));
    return own;
  });
}

/** What a reply can depend on: who answers whom, the devices that the flow passed, and its translations. */
function replyKey({ hops, packet, sessions }: Walk): string {
  const devices = [...new Set(hops.map((hop) => hop.device))].sort((a, b) => a - b);
  return JSON.stringify([hops[hops.length - 1].device, packet, devices, sessions]);
}

/** Whether the reply takes the links of the way out; null where it does not arrive. */
function symmetryOf(world: World, outbound: Walk, reply: Walk | null): boolean | null {
  return reply?.result === "delivered" ? sameLinks(world.state.network, outbound, reply) : null;
}

function answersTo(world: World, question: Question, outbound: Walk): Branch[] {
  const { packet } = outbound;
  if (outbound.result !== "delivered" || !packet) {
    const verdict = leavesOutline(outbound) ? "unknown" : "fails";
    return [{ verdict, outbound, reply: null, symmetric: null }];
  }
  const last = outbound.hops[outbound.hops.length - 1];
  if (outbound.assumed) return answersOfAssumed(world, question, outbound, outbound.assumed);
  // A reply to or from a link-local address leaves by the interface that the packet came in by (rule 6.1).
  const linkLocal = isIpv6LinkLocal(packet.source) || isIpv6LinkLocal(packet.destination);
  const zone = last.in >= 0 ? last.in : question.zone;
  const replies = walkPacket(world, {
    ...(linkLocal && zone !== undefined ? { zone } : {}),
    device: last.device,
    vrf: outbound.vrf,
    source: packet.destination,
    destination: packet.source,
    protocol: question.protocol,
    port: null,
    answers: outbound,
  });
  return replies.map((reply) => branchOf(world, outbound, reply));
}

function branchOf(world: World, outbound: Walk, answered: Walk): Branch {
  const reply = withHalfSession(world.state.network, outbound, answered);
  const back = reply.result === "delivered";
  return {
    verdict: back ? "works" : leavesOutline(reply) ? "unknown" : "one-way",
    outbound,
    reply,
    symmetric: symmetryOf(world, outbound, reply),
  };
}

/** Rule 6.6: TCP through a stateful firewall that sees the forward path but not the reply. The firewall drops the
 * packets after the first, because it saw no answer; the reply is reported as lost there. */
function withHalfSession(network: Network, outbound: Walk, reply: Walk): Walk {
  if (outbound.packet?.protocol !== "tcp" || reply.result !== "delivered") return reply;
  const at = halfSeenBy(network, outbound.hops, reply.hops);
  if (at < 0) return reply;
  const drop: Drop = {
    code: "half-session",
    device: at,
    packet: outbound.packet,
    address: null,
    out: -1,
    neighbour: -1,
    zones: null,
    circle: [],
  };
  return { ...reply, result: "dropped", drop };
}

/** Whether a network has firewalls that could see one direction of a TCP session alone and drop it for that. */
export const hasHalfSeeing = onceFor(({ devices }: Network) => devices.some(dropsHalfSessions));

const dropsHalfSessions = ({ policy, profile }: DeviceRecord) =>
  policy !== null && profile.stateful && profile.midStream === "drop";

/** The first such firewall on the forward path whose pair does not see the reply; -1 if there is none. */
export function halfSeenBy(
  network: Network,
  there: readonly Pick<Hop, "device">[],
  back: readonly Pick<Hop, "device">[],
): number {
  const seen = new Set(back.map(({ device }) => device));
  const sees = (device: number) => matesOf(network, device).some((mate) => seen.has(mate));
  const found = there
    .slice(1, -1)
    .find(({ device }) => dropsHalfSessions(network.devices[device]) && !sees(device));
  return found ? found.device : -1;
}

/** What an assumed host answers: by the gateway of its segment, by each where several forward there (rule 2.8). */
function answersOfAssumed(world: World, question: Question, outbound: Walk, assumed: EdgeNetwork): Branch[] {
  const { packet, hops } = outbound;
  const { out } = hops[hops.length - 1];
  if (!packet) return [];
  const entries = entriesFrom(world.state, out, assumed, packet.source);
  const branches = entries.flatMap((entry) =>
    walkPacket(world, {
      ...entry,
      source: packet.destination,
      destination: packet.source,
      protocol: question.protocol,
      port: null,
      answers: outbound,
    }).map((reply) => branchOf(world, outbound, reply)),
  );
  if (branches.length === 0) return [{ verdict: "one-way", outbound, reply: null, symmetric: null }];
  const differ = branches.some(({ verdict }) => verdict !== branches[0].verdict);
  return entries.length > 1 && differ ? branches.map((branch) => ({ ...branch, uncertain: true })) : branches;
}

/** Whether a walk ends at the edge of the modeled network. */
function leavesOutline(walk: Walk): boolean {
  return walk.drop?.code === "beyond-outline";
}

function sameLinks(network: Network, outbound: Walk, reply: Walk): boolean {
  const links = (walk: Walk) =>
    walk.hops.filter((hop) => hop.out >= 0).map((hop) => network.interfaces.link[hop.out]);
  const there = links(outbound);
  // The reply of an assumed host begins where it comes to its gateway.
  if (outbound.assumed) {
    const [first] = reply.hops;
    there.pop();
    if (first.device !== outbound.hops[outbound.hops.length - 1].device) return false;
  }
  const back = links(reply).reverse();
  return there.length === back.length && there.every((link, i) => link === back[i]);
}

export type QuestionOutcome = { ok: true; question: Question } | { ok: false; message: string };

/** A question from the text of a plan's flow or of the command line: a device or device/interface, and an address or a device. */
export function askFrom(
  network: Network,
  asked: { from: string; source?: string; to: string; protocol?: Protocol; port?: number },
): QuestionOutcome {
  const fail = (message: string): QuestionOutcome => ({ ok: false, message });
  const end = parseEnd(asked.from);
  const device = network.deviceIndex.get(end?.device ?? asked.from);
  if (device === undefined) return fail(`there is no device ${end?.device ?? asked.from}`);
  const record = network.devices[device];
  const port = end ? network.interfaceIndex.get(asked.from) : undefined;
  if (end && port === undefined) return fail(`${record.id} has no interface ${end.name}`);
  const given = asked.source === undefined ? null : parseAddress(asked.source);
  if (asked.source !== undefined && !given) return fail(`"${asked.source}" is not an IPv4 or IPv6 address`);
  const zoned = parseZonedAddress(asked.to);
  let destination = zoned?.address ?? null;
  if (!destination) {
    const target = network.deviceIndex.get(asked.to);
    if (target === undefined) return fail(`"${asked.to}" is neither an address nor a device of this plan`);
    destination = mainAddress(
      network,
      network.devices[target],
      given?.family ?? familyOf(network, record, port),
    );
    if (!destination) return fail(`${asked.to} has no address that ${record.id} can reach`);
  }
  if (given && given.family !== destination.family) {
    return fail(`the source ${asked.source} and the destination have different address families`);
  }
  const source =
    given ?? (port === undefined ? null : (addressesOf(network, port, destination.family)[0] ?? null));
  if (port !== undefined && !source)
    return fail(`${asked.from} has no IPv${destination.family} address to send from`);
  const zone = zoneOf(network, record, port, destination, zoned?.zone ?? null);
  if (typeof zone === "string") return fail(zone);
  return {
    ok: true,
    question: {
      ...(zone === null ? {} : { zone }),
      device,
      vrf: originVrf(network, record, zone ?? port, source),
      source,
      destination,
      protocol: asked.protocol ?? "icmp",
      port: asked.port ?? null,
    },
  };
}

/** The interface of a link-local destination (RFC 4007): the named one, else the sender's stated or only IPv6
 * interface; null for other destinations or if it is ambiguous. A string is an error message. */
function zoneOf(
  network: Network,
  record: DeviceRecord,
  port: number | undefined,
  destination: Address,
  named: string | null,
): number | string | null {
  if (named !== null) {
    const zone = network.interfaceIndex.get(`${record.id}/${named}`);
    return zone ?? `${record.id} has no interface ${named}`;
  }
  if (!isIpv6LinkLocal(destination)) return null;
  if (port !== undefined) return port;
  const speaking: number[] = [];
  for (let i = record.firstInterface; i < record.endInterface; i++) {
    if (network.interfaces.link[i] >= 0 && addressesOf(network, i, 6).length) speaking.push(i);
  }
  return speaking.length === 1 ? speaking[0] : null;
}

function familyOf(network: Network, record: DeviceRecord, port: number | undefined): Family | null {
  const ports =
    port === undefined
      ? Array.from(
          { length: record.endInterface - record.firstInterface },
          (_, i) => record.firstInterface + i,
        )
      : [port];
  const has = (family: Family) => ports.some((i) => addressesOf(network, i, family).length > 0);
  return has(4) ? 4 : has(6) ? 6 : null;
}

/** A sender's VRF: that of the interface named, else of the one that owns the source, else main. */
function originVrf(
  network: Network,
  record: DeviceRecord,
  port: number | undefined,
  source: Address | null,
): number {
  if (port !== undefined) return network.interfaces.vrf[port];
  if (!source) return 0;
  const everything = new Uint8Array(network.interfaces.count).fill(1);
  const owner = ownInterface(network, everything, record.index, -1, source);
  return owner < 0 ? 0 : network.interfaces.vrf[owner];
}

/** A flow of a plan with its question to the engine. */
export interface FlowQuestion {
  readonly flow: Flow;
  readonly question: Question;
}

export function mustBeDenied({ expect }: Flow): boolean {
  return expect?.verdict === "denied";
}

/** Flows as questions; one that cannot be asked, such as one to a device without address, is left out. */
export function questionsOf(network: Network, flows: readonly Flow[]): FlowQuestion[] {
  return flows.flatMap((flow) => {
    const asked = askFrom(network, flow);
    if (!asked.ok) return [];
    const { sessionTimeoutMs } = flow;
    const question = {
      ...asked.question,
      ...(mustBeDenied(flow) ? { mustBeDenied: true as const } : {}),
      ...(sessionTimeoutMs === undefined ? {} : { sessionTimeoutMs }),
    };
    return [{ flow, question }];
  });
}

const knownQuestions = new WeakMap<Network, readonly FlowQuestion[]>();

/** A plan's flows as questions, computed once per network. */
export function flowQuestions(network: Network): readonly FlowQuestion[] {
  let questions = knownQuestions.get(network);
  if (!questions) {
    questions = questionsOf(network, network.plan.flows);
    knownQuestions.set(network, questions);
  }
  return questions;
}

/** Reuses the questions of the network that this one was edited from, if the edit does not affect them. */
export function shareQuestions(network: Network, like: Network) {
  const known = knownQuestions.get(like);
  const alike =
    network.plan.flows === like.plan.flows &&
    network.interfaces === like.interfaces &&
    network.devices.every(({ forwards }, d) => forwards[6] === like.devices[d].forwards[6]);
  if (known && alike) knownQuestions.set(network, known);
}
