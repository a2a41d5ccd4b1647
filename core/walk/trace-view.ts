import { type Address, sameAddress } from "../address/index.ts";
import { addressesOf } from "../network/index.ts";
import type { Branch } from "./flow.ts";
import { endsOfRoute, findRoute } from "./lookup.ts";
import type { DropCode, Hop, Walk } from "./packet.ts";
import { chooseSource } from "./source.ts";
import { sentTo } from "./translation.ts";
import { HOP_LIMIT, walkPacket } from "./walk.ts";
import type { World } from "./world.ts";

/** An ICMP message as its receiver gets it (RFC 792; RFC 4443). */
export interface IcmpMessage {
  readonly type: number;
  readonly code: number;
  readonly from: Address;
}

/** What a sender sees of a packet's way (rule 6.11). */
export interface TraceView {
  /** Who answers at hop limit 1, 2 and so on, the receiver last; null: no reply. */
  readonly hops: readonly (Address | null)[];
  /** Round-trip time to each hop in milliseconds, from the links' `delayMs`; null without a reply. */
  readonly rttMs: readonly (number | null)[];
  /** The message that says what became of a packet that does not arrive; null for silence. */
  readonly message: IcmpMessage | null;
}

/** Type and code of the errors by which a device says why it drops a packet: IPv4, then IPv6. All others are silent. */
const errors: Partial<Record<DropCode, readonly [readonly [number, number], readonly [number, number]]>> = {
  "no-route": [
    [3, 0],
    [1, 0],
  ],
  "neighbour-silent": [
    [3, 1],
    [1, 3],
  ],
  "host-not-listening": [
    [3, 1],
    [1, 3],
  ],
  rejected: [
    [3, 1],
    [1, 0],
  ],
  "hop-limit": [
    [11, 0],
    [3, 0],
  ],
  looped: [
    [11, 0],
    [3, 0],
  ],
};

/** What a device finds before it looks at the hop limit: it drops the packet whatever that is. */
const beforeHopLimit: ReadonlySet<DropCode> = new Set([
  "return-path",
  "no-route",
  "discarded",
  "rejected",
  "forwarding-off",
  "beyond-outline",
  "private-at-internet",
  "link-local",
  "virtual-not-accepted",
]);

/** What ping and trace show of one way of a flow, without limits of how often a device answers. */
export function traceViewOf(world: World, { outbound, reply }: Branch): TraceView {
  const { hops: all, drop } = outbound;
  const { devices } = world.state.network;
  // A lookup in another VRF is no hop, nor is a device that does not count.
  const counted = all.flatMap((hop, n) =>
    n > 0 && all[n - 1].device !== hop.device && devices[hop.device].profile.decrements ? [n] : [],
  );
  const answers = counted.map((n) => errorFrom(world, outbound, n));
  const seen = (found: readonly (Answer | null)[], message: IcmpMessage | null): TraceView => ({
    hops: found.map((answer) => answer?.from ?? null),
    rttMs: found.map((answer) => answer?.rttMs ?? null),
    message,
  });
  const last = all.length - 1;
  if (outbound.result === "delivered") {
    const answered = reply?.result === "delivered" && outbound.packet;
    const receiver = answered && {
      from: sentTo(outbound, outbound.packet.destination),
      rttMs: delayOf(world, outbound.hops) + delayOf(world, reply.hops),
    };
    // The receiver answers whether it takes part in the counting or not.
    const passed = answers.filter((_, i) => outbound.assumed || counted[i] !== last);
    return seen(last === 0 && !outbound.assumed ? [] : [...passed, receiver || null], null);
  }
  if (!drop || !outbound.packet) return seen(answers, null);
  const [four, six] = errors[drop.code] ?? [];
  const pair = outbound.packet.source.family === 4 ? four : six;
  const at = outbound.result === "looped" ? whereLimitEnds(all, counted) : last;
  // A sender without a route sends nothing.
  const error = pair && (at > 0 || drop.code !== "no-route") ? errorFrom(world, outbound, at) : null;
  const message = pair && error ? { type: pair[0], code: pair[1], from: error.from } : null;
  if (counted.at(-1) !== last || !beforeHopLimit.has(drop.code)) return seen(withoutRepeat(), message);
  return seen([...answers.slice(0, -1), error], message);

  /** Each device of a loop once: the place where it closes is reported already. */
  function withoutRepeat() {
    return outbound.result === "looped" && counted.at(-1) === last ? answers.slice(0, -1) : answers;
  }
}

/** Where a packet that goes round and round runs out of hops: a place of the walk, whose last hop closes the circle. */
function whereLimitEnds(all: readonly Hop[], counted: readonly number[]): number {
  const last = all.length - 1;
  const start = all.findIndex(
    (hop, n) =>
      n < last && hop.device === all[last].device && hop.in === all[last].in && hop.vrf === all[last].vrf,
  );
  const before = counted.filter((n) => n < start);
  const circle = counted.filter((n) => n >= start && n < last);
  if (circle.length === 0) return last;
  return circle[(HOP_LIMIT - 1 - before.length) % circle.length];
}

interface Answer {
  readonly from: Address;
  readonly rttMs: number;
}

/** What the links of some hops delay a packet by, in milliseconds. */
function delayOf({ state }: World, hops: readonly Hop[]): number {
  const { interfaces, plan } = state.network;
  return hops.reduce(
    (sum, { out, to }) => sum + (out >= 0 && to >= 0 ? (plan.links[interfaces.link[out]]?.delayMs ?? 0) : 0),
    0,
  );
}

/** The source of an error from the device at a hop, as the sender receives it; null if it is lost. */
function errorFrom(world: World, outbound: Walk, n: number): Answer | null {
  const { network } = world.state;
  const hop = outbound.hops[n];
  const record = network.devices[hop.device];
  const receiver = sourceAt(outbound, n);
  if (!receiver) return null;
  if (n === 0) return { from: receiver, rttMs: 0 };
  const asked = {
    source: null,
    destination: receiver,
    protocol: "icmp",
    port: null,
    in: -1,
    mark: null,
  } as const;
  const ask = (vrf: number) => findRoute(world, record, vrf, asked);
  const [way] = endsOfRoute(world, record, ask(hop.vrf), ask);
  if (!way) return null;
  const { errorsFrom, errorsFromIpv6 } = record.profile;
  const byWayIn = (receiver.family === 4 ? errorsFrom : errorsFromIpv6) === "way-in" && hop.in >= 0;
  const before = addressesOf(network, outbound.hops[n - 1].out, receiver.family)[0] ?? null;
  const by = byWayIn ? { out: hop.in, address: before, peer: -1 } : way.hop;
  const own = chooseSource(world.state, record, by, receiver);
  if (!own) return null;
  const hops = outbound.hops.slice(0, n + 1);
  const passed = new Set(hops.slice(0, -1).map(({ device }) => device));
  const walks = walkPacket(world, {
    device: hop.device,
    vrf: hop.vrf,
    source: own,
    destination: receiver,
    protocol: "icmp",
    port: null,
    isError: true,
    answers: { ...outbound, hops, sessions: outbound.sessions.filter(({ device }) => passed.has(device)) },
  });
  if (walks.some(({ result }) => result !== "delivered")) return null;
  return { from: own, rttMs: delayOf(world, hops.slice(0, -1)) + delayOf(world, walks[0].hops) };
}

/** The source of the packet as it came to a hop. */
function sourceAt({ hops, packet, sessions }: Walk, n: number): Address | null {
  if (!packet) return null;
  const changes = sessions.filter(({ end }) => end === "source");
  let source = changes[0]?.original ?? packet.source;
  for (const { translated } of hops.slice(0, n)) {
    const change = translated && changes.find((s) => sameAddress(s.translated, translated));
    if (change) source = change.translated;
  }
  return source;
}
