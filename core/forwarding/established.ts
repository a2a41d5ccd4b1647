import { type Address, sameAddress } from "../address/index.ts";
import { type Network, onceFor } from "../network/index.ts";
import { flatTrips } from "./flat/trips.ts";
import type { Trip } from "./flow.ts";
import type { Drop, DropCode, Session } from "./packet.ts";
import { type Established, type Question, walkPacket } from "./walk.ts";
import type { World } from "./world.ts";

/** Why what was established breaks: its packets or replies die, or the receiver sees another source. */
export type Breaking =
  | { readonly kind: "dropped"; readonly code: DropCode; readonly device: number; readonly reply: boolean }
  | { readonly kind: "source"; readonly at: number; readonly before: Address; readonly after: Address };

/** Whether any device of a network keeps state of flows: by a policy of a stateful one, or to translate (rule 18). */
const keepsState = onceFor(({ devices }: Network) =>
  devices.some(
    ({ policy, profile, sourceNat, destinationNat }) =>
      (policy && profile.stateful) || sourceNat.length > 0 || destinationNat.length > 0,
  ),
);

/**
 * Whether what was established in one world lives on in another, where new packets work (rule 18): its packets are walked
 * with the source and the translation that they began with. null where it does; `before` is how the flow went.
 */
export function breakingOf(before: Trip, question: Question, after: World): Breaking | null {
  const { network } = after.state;
  /** Sources that were found to do, where nobody keeps state. */
  const sound: Address[] = [];
  for (const branch of before.branches) {
    if (branch.verdict !== "works") continue;
    const { outbound, reply } = branch;
    if (!outbound.packet) continue;
    const first = outbound.sessions.find(({ end }) => end === "source");
    const source = first?.original ?? outbound.packet.source;
    const asked = { ...question, source };
    // Where nobody keeps state, only the source that it began with counts.
    if (!keepsState(network)) {
      if (sound.some((one) => sameAddress(one, source))) continue;
      if (flatTrips(network).verdictOf(after, asked) === "works") {
        sound.push(source);
        continue;
      }
    }
    const states = [outbound, ...(reply ? [reply] : [])].flatMap(({ hops }) =>
      hops.map(({ device }) => device),
    );
    const breaking = breakingIn(
      after,
      asked,
      established(network, states, outbound.sessions),
      outbound.packet.source,
    );
    if (breaking) return breaking;
  }
  return null;
}

/** Who has state of a flow: devices that keep any, and with them the other of a pair that is told (rule 17.3). */
function established(network: Network, passed: readonly number[], sessions: readonly Session[]): Established {
  const mates = (device: number): number[] => {
    const place = network.pairPlace[device];
    if (place < 0) return [device];
    const pair = network.pairs[place >> 1];
    return pair.syncStates ? [...pair.members] : [device];
  };
  return {
    states: new Set(passed.flatMap(mates)),
    sessions: sessions.flatMap((session) => mates(session.device).map((device) => ({ ...session, device }))),
  };
}

function breakingIn(world: World, asked: Question, known: Established, seen: Address): Breaking | null {
  for (const outbound of walkPacket(world, { ...asked, established: known })) {
    if (outbound.drop) return told(outbound.drop, false);
    const last = outbound.hops[outbound.hops.length - 1];
    if (!outbound.packet) continue;
    if (!sameAddress(outbound.packet.source, seen))
      return { kind: "source", at: last.device, before: seen, after: outbound.packet.source };
    const replies = walkPacket(world, {
      device: last.device,
      vrf: outbound.vrf,
      source: outbound.packet.destination,
      destination: outbound.packet.source,
      protocol: asked.protocol,
      port: null,
      answers: outbound,
      established: known,
    });
    for (const reply of replies) if (reply.drop) return told(reply.drop, true);
  }
  return null;
}

function told({ code, device }: Drop, reply: boolean): Breaking {
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
