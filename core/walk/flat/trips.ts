import { type Address, isIpv6LinkLocal } from "../../address/index.ts";
import { onceFor } from "../../collections/index.ts";
import type { Network } from "../../network/index.ts";
import { hasDoubtful, isDoubtful } from "../duplicates.ts";
import {
  type Arrival,
  arrivalOf,
  halfSeenBy,
  hasHalfSeeing,
  type Trip,
  type Verdict,
  verdictRank,
  walkBothWays,
  worksPartly,
} from "../flow.ts";
import { carriersOfTrip, type GatewayRecord } from "../gateways.ts";
import { type DropCode, dropCodes, type Hop, type Walk } from "../packet.ts";
import { type Question, walkPacket } from "../walk.ts";
import type { World } from "../world.ts";
import { worksPlainly } from "./plain.ts";
import { Numbers, results, type WalkRecord } from "./recorded.ts";
import { NONE } from "./rows.ts";
import { codeOf, type FlatSending, FlatWalker } from "./walker.ts";

/** A flow's result: the worst of its branches, and the gateways on its forward path. */
export interface FlowOutcome {
  readonly verdict: Verdict;
  /** Positions of the gateways, in the order in which the packets leave by them. */
  readonly carriers: readonly number[];
  /** Whether some ways work where others do not. */
  readonly partly: boolean;
  /** Whether the path is one of several possible ones; the worst is reported (rule 17.4). */
  readonly uncertain: boolean;
  /** Of a flow that must be denied: how far its packets get. */
  readonly arrival?: Arrival;
}

/** The same with how the packet or its reply ended where the flow does not work; null where it works. */
export interface Outcome extends FlowOutcome {
  readonly ended: DropCode | null;
}

/** How a packet ends. */
export interface FlatEnd {
  readonly result: Walk["result"];
  /** The device where it ends. */
  readonly at: number;
  readonly code: DropCode | null;
  /** Whether it has one way and no more. */
  readonly single: boolean;
  /** Positions of the gateways that it leaves by. */
  readonly carriers: readonly number[];
  /** The devices that it passes, and the interface by which it leaves each of them; -1 at the end. */
  readonly way: readonly number[];
  readonly exits: readonly number[];
}

const resultNames = ["delivered", "dropped", "looped"] as const satisfies readonly Walk["result"][];

/** Markers in `ways`: a forward path follows, or a return path. */
const OUT = -2;
const BACK = -3;

/**
 * Answers questions about flows in numbers: verdict, carriers and how it ended, as `walkBothWays` would find them
 * (rule 6). What `FlatWalker` refuses is walked in full.
 */
export class FlatTrips {
  private readonly out: FlatWalker;
  private readonly back: FlatWalker;
  private readonly told = new Numbers();
  private verdict: Verdict = "works";
  private anyWorks = false;
  private ended = -1;
  private arrived = true;
  private wasInFull = false;
  /** The flow that was asked last, where its ways are not walked yet. */
  private unwalkedWorld: World | null = null;
  private unwalkedQuestion: Question | null = null;

  constructor(network: Network) {
    this.out = new FlatWalker(network);
    this.back = new FlatWalker(network);
  }

  /** The outcome of a flow in a world. */
  outcome(world: World, question: Question, gateways: readonly GatewayRecord[]): Outcome {
    this.out.tellGateways(gateways);
    const inFull = question.mustBeDenied || hasDoubtful(world.state);
    if (inFull || !this.walk(world, question)) return this.inFull(world, question, gateways);
    const { verdict, ended } = this;
    return {
      verdict,
      carriers: this.out.carriers.slice(),
      partly: verdict !== "works" && this.anyWorks,
      uncertain: false,
      ended: ended < 0 ? null : dropCodes[ended],
    };
  }

  /** Plain paths are walked only on demand. */
  verdictOf(world: World, question: Question): Verdict {
    if (!worksPlainly(world, question)) return this.walkedVerdict(world, question);
    this.unwalkedWorld = world;
    this.unwalkedQuestion = question;
    this.arrived = true;
    return "works";
  }

  private walkedVerdict(world: World, question: Question): Verdict {
    this.out.tellGateways(null);
    if (this.walk(world, question)) return this.verdict;
    const trip = walkBothWays(world, question);
    this.tell(trip);
    return trip.verdict;
  }

  /** How the first way of a packet ends, replies left aside; null where it arrives. */
  firstEnd(world: World, question: Question): DropCode | null {
    this.out.tellGateways(null);
    if (!this.walkOut(world, question)) return walkPacket(world, question)[0].drop?.code ?? null;
    const { code } = this.out.walks[0];
    return code < 0 ? null : dropCodes[code];
  }

  /** How a packet ends, replies left aside: the worst of its ways, and all gateways; null where it has to be walked in full. */
  end(world: World, question: Question, gateways: readonly GatewayRecord[]): FlatEnd | null {
    const { out } = this;
    out.tellGateways(gateways);
    if (!this.walkOut(world, question)) return null;
    let worst = 0;
    while (worst < out.count && out.walks[worst].result === results.delivered) worst++;
    const { result, code, device, wayStart, wayEnd } = out.walks[worst === out.count ? 0 : worst];
    const way: number[] = [];
    const exits: number[] = [];
    for (let at = wayStart; at < wayEnd; at += 2) {
      way.push(out.ways.list[at]);
      exits.push(out.ways.list[at + 1]);
    }
    return {
      result: resultNames[result],
      at: device,
      code: code < 0 ? null : dropCodes[code],
      single: out.count === 1,
      carriers: out.carriers.slice(),
      way,
      exits,
    };
  }

  /**
   * Every way of a packet, replies left aside, as numbers: how it ends, then its devices and exits. Null where it has
   * to be walked in full. The list is used again at the next question.
   */
  waysOut(world: World, question: Question): { readonly list: Int32Array; readonly length: number } | null {
    this.out.tellGateways(null);
    if (!this.walkOut(world, question)) return null;
    const { out, told } = this;
    for (let n = 0; n < out.count; n++) {
      const { code, wayStart, wayEnd } = out.walks[n];
      told.push(OUT);
      told.push(code);
      told.take(out.ways.list, wayStart, wayEnd);
    }
    return told;
  }

  /** The hops of every way of a packet, replies left aside. */
  hopsOut(world: World, question: Question): (readonly Pick<Hop, "device" | "out">[])[] {
    this.out.tellGateways(null);
    if (!this.walkOut(world, question)) return walkPacket(world, question).map(({ hops }) => hops);
    const { out } = this;
    return out.walks.slice(0, out.count).map(({ wayStart, wayEnd }) => {
      const hops: { device: number; out: number }[] = [];
      for (let at = wayStart; at < wayEnd; at += 2)
        hops.push({ device: out.ways.list[at], out: out.ways.list[at + 1] });
      return hops;
    });
  }

  /** Walks the last flow if only its verdict was computed. */
  private catchUp() {
    const { unwalkedWorld: world, unwalkedQuestion: question } = this;
    if (world && question) this.walkedVerdict(world, question);
  }

  /** Whether every packet of the flow that was asked last arrived, whatever became of the replies. */
  allArrive(): boolean {
    return this.arrived;
  }

  /** The devices that packets and replies of the flow that was asked last passed. */
  devicesPassed(): Set<number> {
    const devices = new Set<number>();
    this.forEachHop((device) => devices.add(device));
    return devices;
  }

  /** The addresses that packets of the flow that was asked last bore, and their replies; null where it was walked in full. */
  addressesBorne(): Set<Address> | null {
    this.catchUp();
    const { out } = this;
    if (this.wasInFull) return null;
    const numbers = new Set<number>();
    for (let n = 0; n < out.count; n++) {
      const { source, destination, sessions } = out.walks[n];
      numbers.add(source).add(destination);
      for (const { original, translated } of sessions) numbers.add(original).add(translated);
    }
    return new Set([...numbers].map((number) => out.book.addresses[number]));
  }

  /** Calls for every hop of the flow that was asked last, there and back. */
  private forEachHop(call: (device: number, out: number) => void) {
    this.catchUp();
    const { list, length } = this.told;
    for (let at = 0; at < length; at++) if (list[at] !== OUT && list[at] !== BACK) call(list[at], list[++at]);
  }

  /** The devices and exits of all ways of the flow that was asked last, in an order of their own: equal for equal ways. */
  ways(): Int32Array {
    this.catchUp();
    return this.told.list.slice(0, this.told.length);
  }

  /** Whether the last flow took exactly the paths recorded in `ways` earlier. */
  tookWays(ways: Int32Array): boolean {
    this.catchUp();
    const { list, length } = this.told;
    if (length !== ways.length) return false;
    for (let at = 0; at < length; at++) if (list[at] !== ways[at]) return false;
    return true;
  }

  private inFull(world: World, question: Question, gateways: readonly GatewayRecord[]): Outcome {
    const trip = walkBothWays(world, question);
    this.tell(trip);
    return {
      verdict: trip.verdict,
      carriers: carriersOfTrip(gateways, trip),
      partly: worksPartly(trip),
      uncertain: isDoubtful(world.state, trip),
      ended: trip.worst.outbound.drop?.code ?? trip.worst.reply?.drop?.code ?? null,
      ...(question.mustBeDenied ? { arrival: arrivalOf(trip) } : {}),
    };
  }

  private tell({ branches }: Trip) {
    this.begin();
    this.wasInFull = true;
    this.arrived = branches.every(({ outbound }) => outbound.result === "delivered");
    const way = (mark: number, walk: Walk) => {
      this.told.push(mark);
      for (const hop of walk.hops) {
        this.told.push(hop.device);
        this.told.push(hop.out);
      }
    };
    for (const [n, { outbound, reply }] of branches.entries()) {
      if (outbound !== branches[n - 1]?.outbound) way(OUT, outbound);
      if (reply) way(BACK, reply);
    }
  }

  /** Resets the results for a new flow. */
  private begin() {
    this.told.length = 0;
    this.unwalkedWorld = null;
  }

  /** Walks a flow both ways; false where it has to be walked in full. */
  private walk(world: World, question: Question): boolean {
    const { out } = this;
    if (!this.walkOut(world, question) || out.anyAssumed) return false;
    this.verdict = "works";
    this.ended = -1;
    this.arrived = true;
    this.anyWorks = false;
    let first = true;
    const count = (verdict: Verdict, code: number) => {
      if (first || verdictRank[verdict] < verdictRank[this.verdict]) {
        this.verdict = verdict;
        this.ended = code;
      }
      first = false;
    };
    const answered: ReplyCache | null = out.count > 1 ? new Map() : null;
    for (let n = 0; n < out.count; n++) {
      const walk = out.walks[n];
      this.told.push(OUT);
      this.told.take(out.ways.list, walk.wayStart, walk.wayEnd);
      if (walk.result !== results.delivered) this.arrived = false;
      if (walk.result !== results.delivered || walk.undecided) {
        count(walk.code === codeOf["beyond-outline"] ? "unknown" : "fails", walk.code);
        continue;
      }
      const key = answered ? this.replyKey(walk) : "";
      const known = answered?.get(key);
      if (known) {
        this.anyWorks ||= known.anyWorks;
        count(known.verdict, known.code);
        this.told.push(BACK);
        this.told.take(known.way, 0, known.way.length);
        continue;
      }
      const reply = this.answer(world, question, walk, answered !== null);
      if (!reply) return false;
      answered?.set(key, reply);
      this.anyWorks ||= reply.anyWorks;
      count(reply.verdict, reply.code);
    }
    return true;
  }

  /** Walks a packet on its way out; false where it has to be walked in full. */
  private walkOut(world: World, question: Question): boolean {
    const { out } = this;
    this.begin();
    this.wasInFull = false;
    if (question.zone !== undefined || isIpv6LinkLocal(question.destination)) return false;
    const { device, vrf, source, destination, protocol, port, pinned } = question;
    out.walk(world, {
      device,
      vrf,
      source: source ? out.book.numberOf(source) : NONE,
      destination: out.book.numberOf(destination),
      protocol,
      port,
      pinned,
      answers: null,
    });
    return !out.refused;
  }

  /** Walks the replies to a forward path; the worst of them, or null if they need a full walk. */
  private answer(world: World, question: Question, walk: WalkRecord, keep: boolean): Reply | null {
    const { back, told } = this;
    back.setPassed(this.out.ways, walk);
    const sending: FlatSending = {
      device: walk.device,
      vrf: walk.vrf,
      source: walk.destination,
      destination: walk.source,
      protocol: question.protocol,
      port: null,
      pinned: undefined,
      answers: { device: question.device, destination: walk.destination, sessions: walk.sessions },
    };
    back.walk(world, sending);
    if (back.refused || back.anyAssumed) return null;
    if (question.protocol === "tcp" && hasHalfSeeing(world.state.network) && this.isHalfSeen(world, walk))
      return null;
    let worst = 0;
    let verdict: Verdict | null = null;
    let anyWorks = false;
    for (let n = 0; n < back.count; n++) {
      const reply = back.walks[n];
      const delivered = reply.result === results.delivered && !reply.undecided;
      const own = delivered ? "works" : reply.code === codeOf["beyond-outline"] ? "unknown" : "one-way";
      anyWorks ||= delivered;
      if (verdict === null || verdictRank[own] < verdictRank[verdict]) {
        verdict = own;
        worst = n;
      }
      told.push(BACK);
      told.take(back.ways.list, reply.wayStart, reply.wayEnd);
    }
    const { code, wayStart, wayEnd } = back.walks[worst];
    return {
      verdict: verdict ?? "one-way",
      anyWorks,
      code,
      way: keep ? back.ways.list.slice(wayStart, wayEnd) : noWay,
    };
  }

  /** Whether a firewall on a way out sees none of some reply (rule 6.6). */
  private isHalfSeen({ state }: World, { wayStart, wayEnd }: WalkRecord): boolean {
    const hopsOf = ({ list }: Numbers, start: number, end: number) =>
      Array.from({ length: (end - start) / 2 }, (_, n) => ({ device: list[start + n * 2] }));
    const there = hopsOf(this.out.ways, wayStart, wayEnd);
    const { back } = this;
    return back.walks
      .slice(0, back.count)
      .some(
        (reply) => halfSeenBy(state.network, there, hopsOf(back.ways, reply.wayStart, reply.wayEnd)) >= 0,
      );
  }

  /** What a reply can depend on, as in `walkBothWays`. */
  private replyKey({ device, source, destination, wayStart, wayEnd, sessions }: WalkRecord): string {
    const devices = new Set<number>();
    for (let at = wayStart; at < wayEnd; at += 2) devices.add(this.out.ways.list[at]);
    const passed = [...devices].sort((a, b) => a - b);
    return JSON.stringify([device, source, destination, passed, sessions]);
  }
}

interface Reply {
  /** Of the worst. */
  readonly verdict: Verdict;
  readonly anyWorks: boolean;
  readonly code: number;
  readonly way: Int32Array;
}

const noWay = new Int32Array(0);

type ReplyCache = Map<string, Reply>;

/** One for a network: its memory is used again and again. */
export const flatTrips = onceFor((network: Network) => new FlatTrips(network));
