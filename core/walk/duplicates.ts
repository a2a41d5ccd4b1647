import { type Address, type Family, formatAddress, isLinkLocal, widthOf } from "../address/index.ts";
import { onceFor } from "../collections/index.ts";
import { addressAt, isUndrawnSegment, type Network, type State } from "../network/index.ts";
import type { Trip } from "./flow.ts";
import type { Walk } from "./packet.ts";

/** An address that two enabled interfaces have. */
export interface Duplicate {
  readonly address: Address;
  readonly interfaces: readonly [number, number];
  /** On one link, on one device in one VRF, or neither. */
  readonly on: "link" | "device" | "apart";
}

/**
 * Addresses that stand at two interfaces. Left out: link-local ones, whole addresses (/32, /128), what the two of a pair
 * share, and loopbacks but on one device.
 */
export const duplicatesOf = onceFor((network: Network): readonly Duplicate[] => {
  const { addresses, interfaces, twin } = network;
  const first = new Map<string, number[]>();
  const found: Duplicate[] = [];
  for (let k = 0; k < addresses.count; k++) {
    const address = addressAt(addresses.words, addresses.family[k] as Family, k);
    const i = addresses.interface[k];
    if (!interfaces.enabled[i] || addresses.length[k] === widthOf(address.family) || isLinkLocal(address))
      continue;
    const key = formatAddress(address);
    const others = first.get(key) ?? [];
    for (const other of others) {
      if (other === i || twin[other] === i) continue;
      const on = placeOf(network, other, i);
      const loopback = interfaces.loopback[i] || interfaces.loopback[other];
      if (on !== "apart" || !loopback) found.push({ address, interfaces: [other, i], on });
    }
    first.set(key, [...others, i]);
  }
  return found;
});

function placeOf({ interfaces }: Network, a: number, b: number): Duplicate["on"] {
  if (interfaces.device[a] === interfaces.device[b])
    return interfaces.vrf[a] === interfaces.vrf[b] ? "device" : "apart";
  return interfaces.link[a] >= 0 && interfaces.link[a] === interfaces.link[b] ? "link" : "apart";
}

/** Addresses with an uncertain owner, as text: duplicates, and virtual addresses on segments that are not drawn (rule
 * 2.8). */
const doubtful = onceFor((network: Network): ReadonlySet<string> => {
  const twice = duplicatesOf(network).flatMap(({ address, on }) => (on === "apart" ? [] : [address]));
  const electedApart = network.virtuals.flatMap(({ interface: i, addresses }) =>
    isUndrawnSegment(network, i) ? addresses : [],
  );
  return new Set([...twice, ...electedApart].map(formatAddress));
});

/**
 * Virtual addresses with two Active routers on one link, since a deaf one hears no other (rule 2.6): frames go to the one that sent
 * last. In text.
 */
function twiceActive({ network, deaf, roles }: State): ReadonlySet<string> {
  if (!deaf || network.virtuals.length === 0) return none;
  const { virtuals } = network;
  const found = network.virtualGroups.flatMap(({ members }) => {
    const active = members.filter((v) => roles.virtualActive[v]);
    return active.length > 1 && active.some((v) => deaf[virtuals[v].interface])
      ? active.flatMap((v) => virtuals[v].addresses.map(formatAddress))
      : [];
  });
  return new Set(found);
}

const none: ReadonlySet<string> = new Set();

/** Whether some address of the state may be answered by more than one device. */
export function hasDoubtful(state: State): boolean {
  return doubtful(state.network).size > 0 || twiceActive(state).size > 0;
}

/**
 * Whether the next hop, source or destination of a way is an address that several devices may answer for, or a way leaves by an
 * interface of a segment that is not drawn.
 */
export function isDoubtful(state: State, { branches }: Trip): boolean {
  const { network } = state;
  const leavesUndrawn = (walk: Walk | null) => walk?.hops.some(({ out }) => isUndrawnSegment(network, out));
  if (branches.some((one) => one.uncertain || leavesUndrawn(one.outbound) || leavesUndrawn(one.reply)))
    return true;
  const sets = [doubtful(network), twiceActive(state)].filter(({ size }) => size > 0);
  if (sets.length === 0) return false;
  const stands = (address: Address | null | undefined) =>
    address && sets.some((of) => of.has(formatAddress(address)));
  return branches.some(({ outbound, reply }) =>
    [outbound, reply].some(
      (walk) =>
        stands(walk?.packet?.source) ||
        stands(walk?.packet?.destination) ||
        walk?.hops.some(({ nextHop }) => stands(nextHop)),
    ),
  );
}
