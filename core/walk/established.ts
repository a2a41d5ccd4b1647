import { type Address, formatAddress, sameAddress } from "../address/index.ts";
import { onceFor } from "../collections/index.ts";
import { type DeviceRecord, entriesFrom, matesOf, type Network } from "../network/index.ts";
import { flatTrips } from "./flat/trips.ts";
import type { Branch, Trip } from "./flow.ts";
import type { Drop, DropCode, Session, Walk } from "./packet.ts";
import { type Established, type Question, walkPacket } from "./walk.ts";
import type { World } from "./world.ts";

/** Why established sessions break: packets or replies are lost, the receiver sees another source, or the interruption
 * exceeds the timeout. `uncertain`: depends on something unknown, such as which end sends first. */
export type Breaking = (
  | { readonly kind: "dropped"; readonly code: DropCode; readonly device: number; readonly reply: boolean }
  | { readonly kind: "source"; readonly at: number; readonly before: Address; readonly after: Address }
  | { readonly kind: "stalled"; readonly forMs: number; readonly timeoutMs: number }
) & { readonly uncertain?: true };

/** Whether a device keeps state of flows: by a policy, or to translate (rule 18). */
const keepsStateAt = ({ policy, profile, sourceNat, destinationNat }: DeviceRecord) =>
  (policy !== null && profile.stateful) || sourceNat.length > 0 || destinationNat.length > 0;

/** Whether any device of a network does. */
const keepsState = onceFor(({ devices }: Network) => devices.some(keepsStateAt));

/** Whether any takes packets of sessions that it does not know for new ones. */
const takesMidStream = onceFor(({ devices }: Network) =>
  devices.some((device) => keepsStateAt(device) && device.profile.midStream === "as-new"),
);

/** A session established on one path of a flow: the devices with state for it, and the addresses its receiver sees. */
export interface EstablishedSession {
  readonly asked: Question;
  /** The way out on which it began. */
  readonly outbound: Walk;
  readonly known: Established;
}

/** The sessions of a flow in a world, on each path that works; without stateful devices, once per source. */
export function establishedSessions(trip: Trip, question: Question, { state }: World): EstablishedSession[] {
  const all = trip.branches.flatMap((branch) => sessionOn(branch, question, state.network));
  if (keepsState(state.network)) return all;
  const known = new Set<string>();
  return all.filter(({ asked }) => {
    const source = asked.source ? formatAddress(asked.source) : "";
    return known.size < known.add(source).size;
  });
}

function sessionOn(
  { verdict, outbound, reply }: Branch,
  question: Question,
  network: Network,
): EstablishedSession[] {
  if (verdict !== "works" || !outbound.packet) return [];
  const first = outbound.sessions.find(({ end }) => end === "source");
  const asked = { ...question, source: first?.original ?? outbound.packet.source };
  const devices = [outbound, ...(reply ? [reply] : [])].flatMap(({ hops }) =>
    hops.map(({ device }) => device),
  );
  return [{ asked, outbound, known: establishedAt(network, devices, outbound.sessions) }];
}

/** The devices with state for a flow: those it passed, and their pair members with synchronized sessions. */
function establishedAt(
  network: Network,
  passed: readonly number[],
  sessions: readonly Session[],
): Established {
  return {
    states: new Set(passed.flatMap((device) => matesOf(network, device))),
    sessions: sessions.flatMap((session) =>
      matesOf(network, session.device).map((device) => ({ ...session, device })),
    ),
  };
}

/** Whether sessions established in one world survive in another where new packets work (rule 18): their packets are
 * walked with the original source and translation. Null if they survive; `before` is the flow's trip. */
export function breakingOf(before: Trip, question: Question, after: World): Breaking | null {
  for (const session of establishedSessions(before, question, after)) {
    const { breaking } = passIn(after, session);
    if (breaking) return breaking;
  }
  return null;
}

/** Why established sessions cannot continue, or null; and the devices with state afterwards. */
export interface Passage {
  readonly breaking: Breaking | null;
  readonly session: EstablishedSession;
}

/** Continues established sessions in a world: why they cannot, or null, and the devices with state afterwards. If
 * devices accept unknown packets as new, the end that sends first can matter. */
export function passIn(world: World, session: EstablishedSession): Passage {
  const { network } = world.state;
  // Without stateful devices, only the original source counts.
  if (!keepsState(network) && flatTrips(network).verdictOf(world, session.asked) === "works")
    return { breaking: null, session };
  const one = fromSender(world, session);
  if (session.asked.protocol !== "tcp" || !takesMidStream(network)) return one;
  const other = fromReceiver(world, session);
  if ((one.breaking === null) === (other.breaking === null)) return one;
  return { breaking: { ...((one.breaking ?? other.breaking) as Breaking), uncertain: true }, session };
}

/** The sender speaks first: each of its ways is answered. */
function fromSender(world: World, session: EstablishedSession): Passage {
  let { known } = session;
  for (const outbound of walkPacket(world, { ...session.asked, established: known })) {
    const lost = lossOf(session, outbound);
    if (lost) return { breaking: lost, session };
    known = after(world, known, outbound);
    for (const reply of repliesTo(world, session, outbound, known)) {
      if (reply.drop) return { breaking: breakingAt(reply.drop, true), session };
      known = after(world, known, reply);
    }
  }
  return { breaking: null, session: { ...session, known } };
}

/** The receiver speaks first, to the sender as it knows it. */
function fromReceiver(world: World, session: EstablishedSession): Passage {
  let { known } = session;
  for (const reply of repliesTo(world, session, session.outbound, known)) {
    if (reply.drop) return { breaking: breakingAt(reply.drop, true), session };
    known = after(world, known, reply);
  }
  for (const outbound of walkPacket(world, { ...session.asked, established: known })) {
    const lost = lossOf(session, outbound);
    if (lost) return { breaking: lost, session };
    known = after(world, known, outbound);
  }
  return { breaking: null, session: { ...session, known } };
}

/** Why a packet of the sender ends a session; null if it arrives as its receiver expects. */
function lossOf(session: EstablishedSession, { drop, packet, hops }: Walk): Breaking | null {
  if (drop) return breakingAt(drop, false);
  const seen = session.outbound.packet?.source;
  if (!packet || !seen || sameAddress(packet.source, seen)) return null;
  return { kind: "source", at: hops[hops.length - 1].device, before: seen, after: packet.source };
}

function repliesTo(
  world: World,
  { asked }: EstablishedSession,
  outbound: Walk,
  known: Established,
): readonly Walk[] {
  const { packet, hops, vrf, assumed } = outbound;
  if (!packet) return [];
  const last = hops[hops.length - 1];
  // Of a host that is not drawn: as it comes to a gateway of its segment (rule 2.8).
  const ends = assumed
    ? entriesFrom(world.state, last.out, assumed, packet.source)
    : [{ device: last.device, vrf }];
  return ends.flatMap((end) =>
    walkPacket(world, {
      ...end,
      source: packet.destination,
      destination: packet.source,
      protocol: asked.protocol,
      port: null,
      answers: outbound,
      knownBy: known.states,
      established: known,
    }),
  );
}

/** Who knows a flow once one of its packets has passed. */
function after({ state }: World, known: Established, { hops }: Walk): Established {
  const passed = hops.flatMap(({ device }) => matesOf(state.network, device));
  if (passed.every((device) => known.states.has(device))) return known;
  return { ...known, states: new Set([...known.states, ...passed]) };
}

/** The session's state after devices die: only pair members with synchronized sessions keep it. */
export function without({ state }: World, session: EstablishedSession): EstablishedSession {
  const { states, sessions } = session.known;
  const isKept = (device: number) =>
    matesOf(state.network, device).some((mate) => state.deviceAlive[mate] === 1 && states.has(mate));
  if ([...states].every(isKept)) return session;
  return {
    ...session,
    known: {
      states: new Set([...states].filter(isKept)),
      sessions: sessions.filter(({ device }) => isKept(device)),
    },
  };
}

function breakingAt({ code, device }: Drop, reply: boolean): Breaking {
  return { kind: "dropped", code, device, reply };
}

/** The same over all worlds that may be. */
export function breakingInAny(before: Trip, question: Question, after: readonly World[]): Breaking | null {
  for (const world of after) {
    const breaking = breakingOf(before, question, world);
    if (breaking) return breaking;
  }
  return null;
}
