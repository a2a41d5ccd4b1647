import { differing } from "../collections/index.ts";
import { endsOf, type State } from "../network/index.ts";

/** What differs between two states of one network, by number; some of it may stand twice. */
export interface StateChange {
  readonly devices: readonly number[];
  /** Interfaces that are seen or alive otherwise, with the ends of links and the tunnels that pass otherwise. */
  readonly interfaces: readonly number[];
  readonly watches: readonly number[];
  /** Answer slots. */
  readonly answers: readonly number[];
}

/** Arrays shared by states that differ in watches only. */
const besidesWatches = [
  "deviceAlive",
  "linkAlive",
  "interfaceUp",
  "interfaceAlive",
  "carrierUp",
  "deaf",
  "forgotten",
  "cut",
  "tunnelPasses",
  "roles",
  "answers",
] as const;

/** Compares two states; linear in their size with a small constant. `near` is the result for a state that may share
 * most of `b`. */
export function changeBetween(
  a: State,
  b: State,
  near: { readonly state: State; readonly change: StateChange } | null = null,
): StateChange {
  const { network } = a;
  if (near && network.bundles.length === 0 && besidesWatches.every((key) => near.state[key] === b[key]))
    return { ...near.change, watches: differing(a.watchUp, b.watchUp) };
  const { links, tunnels } = network;
  const interfaces = [...differing(a.interfaceUp, b.interfaceUp)];
  if (a.interfaceUp !== a.interfaceAlive || b.interfaceUp !== b.interfaceAlive)
    interfaces.push(...differing(a.interfaceAlive, b.interfaceAlive));
  if (a.carrierUp !== a.interfaceUp || b.carrierUp !== b.interfaceUp)
    interfaces.push(...differing(a.carrierUp, b.carrierUp));
  interfaces.push(...differing(a.cut, b.cut));
  if (a.forgotten || b.forgotten) {
    const none = new Uint8Array(network.interfaces.count);
    interfaces.push(...differing(a.forgotten ?? none, b.forgotten ?? none));
  }
  for (const bundle of differing(a.members, b.members)) {
    const { interface: i } = network.bundles[bundle];
    interfaces.push(i, ...(network.interfaces.tagged.get(i) ?? []));
  }
  for (const v of differing(a.roles.virtualActive, b.roles.virtualActive))
    interfaces.push(network.virtuals[v].interface);
  for (const place of differing(a.roles.pairActive, b.roles.pairActive)) {
    const { firstInterface, endInterface } = network.devices[network.pairs[place >> 1].members[place & 1]];
    for (let i = firstInterface; i < endInterface; i++) if (network.twin[i] >= 0) interfaces.push(i);
  }
  for (const link of differing(a.linkAlive, b.linkAlive)) interfaces.push(...endsOf(links, link));
  for (const t of differing(a.tunnelPasses, b.tunnelPasses)) interfaces.push(tunnels[t].interface);
  return {
    devices: differing(a.deviceAlive, b.deviceAlive),
    interfaces,
    watches: differing(a.watchUp, b.watchUp),
    answers: differing(a.answers, b.answers),
  };
}
