import type { Family } from "../../address/index.ts";
import { onceFor } from "../../collections/index.ts";
import type { Network } from "../../network/index.ts";
import { BY_NEXT_HOP } from "../gateways.ts";
import { HOP_LIMIT } from "../walk.ts";
import type { World } from "../world.ts";
import type { AddressBook } from "./addresses.ts";
import type { Places } from "./places.ts";
import { LOOK, stepsOf } from "./steps.ts";

/**
 * Takes a packet from place to place as long as all is plain: one next hop, which answers, at devices that look at
 * nothing but the destination. By rule 6.2, as the walk would; where anything else stands, the walk goes on.
 */
export class Glide {
  /** Interfaces that the packet came in by, by the number of the stretch on which it did. */
  private readonly seen: Int32Array;
  private stamp = 0;

  constructor(
    private readonly network: Network,
    private readonly book: AddressBook,
  ) {
    this.seen = new Int32Array(network.interfaces.count);
  }

  /** Continues from a place and returns the place where it stops, which is not examined yet. `gatewayAt`: see
   * `gatewaysByExit`. */
  from(start: number, world: World, places: Places, gatewayAt: Int32Array | null): number {
    const { seen } = this;
    const { device: deviceOf, link: linkOf } = this.network.interfaces;
    const { linkAlive, interfaceAlive } = world.state;
    const { destination, vrf } = places.header(start);
    const plain = plainFor(this.network, this.book.addresses[destination].family);
    const answerers = this.book.answerers[destination];
    if (answerers.length > 1 || vrf !== 0) return start;
    const owner = answerers.length === 1 ? deviceOf[answerers[0]] : -1;
    const stamp = this.passedBefore(start, places);
    const steps = stepsOf(this.network, world.store);
    const off = steps.offIn(world);
    const towards = steps.towards(destination);
    places.reserve(start + HOP_LIMIT + 1);
    const { device: devices, in: came, out: left, headerOf } = places;
    const header = headerOf[start];
    let sentOn = places.sentOn[start];
    let device = devices[start];
    let by = came[start];
    let at = start;
    while (plain[device] && seen[by] !== stamp && device !== owner && sentOn < HOP_LIMIT) {
      const step = steps.at(towards, world, off, device, destination);
      if (towards[step] === LOOK) break;
      const next = towards[step] - 1;
      const out = towards[step + 1];
      if (!linkAlive[linkOf[out]] || !interfaceAlive[next]) break;
      seen[by] = stamp;
      if (gatewayAt?.[out] === BY_NEXT_HOP) places.taken[at] = world.rowsOf(device).hopOf(destination);
      left[at++] = out;
      const reached = deviceOf[next];
      if (reached !== device) sentOn++;
      devices[at] = device = reached;
      came[at] = by = next;
      headerOf[at] = header;
    }
    places.sentOn[at] = sentOn;
    places.sessions[at] = places.sessions[start];
    return at;
  }

  /** Marks where the packet came in before with the same header; gives the mark. */
  private passedBefore(start: number, places: Places): number {
    const stamp = ++this.stamp;
    const { source, destination } = places.header(start);
    for (let k = 1; k < start; k++) {
      const { vrf, cameFrom, cameTo } = places.header(k);
      const by = places.in[k];
      if (cameFrom === source && cameTo === destination && vrf === this.network.interfaces.vrf[by])
        this.seen[by] = stamp;
    }
    return stamp;
  }
}

/** For each family, 1 for each device that looks at nothing but a packet's destination and VRF, and forwards it. */
const plainDevices = onceFor((network: Network) => {
  const plain = (family: Family) =>
    Uint8Array.from(network.devices, ({ index, role, outline, forwards }) =>
      Number(blindToSource(network)[index] && role !== "internet" && !outline && forwards[family]),
    );
  return { 4: plain(4), 6: plain(6) };
});

export function plainFor(network: Network, family: Family): Uint8Array {
  return plainDevices(network)[family];
}

/** 1 for each device that asks for nothing of where a packet comes from. */
export const blindToSource = onceFor((network: Network) =>
  Uint8Array.from(network.devices, ({ policyTables, sourceNat, policy, profile }) =>
    Number(
      policyTables.length === 0 && sourceNat.length === 0 && policy === null && profile.returnPath === "off",
    ),
  ),
);

/** Whether a world has what rows of numbers do not tell: what `walkedInFull` names, or neighbors that were forgotten (rule 2.6). */
export function isWalkedInFull({ state }: World): boolean {
  return state.forgotten !== null || walkedInFull(state.network);
}

/**
 * Whether a network has what rows of numbers do not tell: answers by the way that a flow came in (rule 6.8), policy by more
 * than way in and source, marks (rule 6.10), translated destinations (rule 6.9) or proxy ARP (rule 2.7).
 */
const walkedInFull = onceFor(
  ({ devices, interfaces }: Network) =>
    interfaces.proxyArp.includes(1) ||
    devices.some(
      ({ profile, marks, destinationNat, policyTables }) =>
        profile.replyBy === "came-in" ||
        marks.length > 0 ||
        destinationNat.length > 0 ||
        policyTables.some(
          (table) => table.to || table.protocol || table.firstPort > 0 || table.mark !== null,
        ),
    ),
);
