import { type Address, compareAddress, formatAddress, parseAddress, sameAddress } from "../address/index.ts";
import {
  actionCodes,
  type DeviceRecord,
  faults,
  interfaceName,
  type Network,
  sourceCodes,
} from "../network/index.ts";
import { nextHopsOf, type TableStore } from "../routes/index.ts";
import type { Trip } from "./flow.ts";
import type { Hop, Walk } from "./packet.ts";
import type { World } from "./world.ts";

/** An exit that distinguishes flows. */
export interface GatewayRecord {
  readonly id: string;
  readonly label: string;
  readonly interface: number;
  /** The corresponding interface of the pair's other member (rule 17), or -1. */
  readonly twin: number;
  /** Set where several gateways stand behind one interface. */
  readonly via: Address | null;
}

/**
 * The plan's gateways; where it names none, one for the exit of each default route of routers, firewalls and clouds,
 * and of hosts with several, in the healthy network.
 */
export function gatewaysOf(healthy: World): readonly GatewayRecord[] {
  const { network } = healthy.state;
  if (network.plan.gateways.length === 0) return derivedGateways(healthy);
  return network.plan.gateways.map((gateway) => {
    const i = network.interfaceIndex.get(gateway.at) as number;
    return {
      id: gateway.id,
      label: gateway.label ?? gateway.id,
      interface: i,
      twin: network.twin[i],
      via: gateway.via ? parseAddress(gateway.via) : null,
    };
  });
}

interface Exit {
  /** Counted from the device's first, so that it stays the same where other devices' interfaces are edited. */
  readonly place: number;
  readonly via: Address | null;
}

const familyOf = ({ via }: Exit) => via?.family ?? 4;

function derivedGateways(healthy: World): readonly GatewayRecord[] {
  const { store } = healthy;
  const like = store.like ? knownExits.get(store.like) : undefined;
  const exits = exitsOfAll(healthy, like);
  const same = like && sameExits(like, { world: healthy, exits });
  const gateways = same ? like.gateways : namedGateways(healthy.state.network, exits);
  knownExits.set(store, { world: healthy, exits, gateways });
  return gateways;
}

/** Whether the same exits in two worlds have the same names too. */
function sameExits(a: Omit<Derived, "gateways">, b: Omit<Derived, "gateways">): boolean {
  const [one, other] = [a.world.state.network, b.world.state.network];
  return (
    one.interfaces === other.interfaces &&
    one.twin.every((twin, i) => twin === other.twin[i]) &&
    one.devices.every(({ label }, d) => label === other.devices[d].label) &&
    a.exits.every((own, d) => sameList(own, b.exits[d]))
  );
}

function sameList(a: readonly Exit[], b: readonly Exit[]): boolean {
  return (
    a === b ||
    (a.length === b.length && a.every((exit, n) => exit.place === b[n].place && sameVia(exit.via, b[n].via)))
  );
}

/** The exits of all devices as gateways, with the names that tell them apart. */
function namedGateways(network: Network, exitsOfAll: readonly (readonly Exit[])[]): GatewayRecord[] {
  const exits = exitsOfAll.flatMap((own, d) =>
    own.map(({ place, via }) => ({
      out: network.devices[d].firstInterface + place,
      via,
      family: via?.family ?? 4,
    })),
  );
  const sharers = new Map<number, number>();
  const behind = ({ out, family }: (typeof exits)[number]) => out * 2 + Number(family === 6);
  for (const exit of exits) sharers.set(behind(exit), (sharers.get(behind(exit)) ?? 0) + 1);
  const named = new Map<string, GatewayRecord>();
  for (const exit of exits) {
    const { out, via } = exit;
    const name = interfaceName(network, out);
    const label = `${network.devices[network.interfaces.device[out]].label} ${network.interfaces.names[out]}`;
    const alone = (sharers.get(behind(exit)) ?? 0) < 2 || !via;
    const told = alone ? "" : ` via ${formatAddress(via)}`;
    const id = `${name}${told}`;
    if (!named.has(id))
      named.set(id, {
        id,
        label: `${label}${told}`,
        interface: out,
        twin: network.twin[out],
        via: alone ? null : via,
      });
  }
  return [...named.values()];
}

/** The exits of a plan that names no gateways, by device, and the gateways that they make. */
interface Derived {
  readonly world: World;
  readonly exits: readonly (readonly Exit[])[];
  readonly gateways: readonly GatewayRecord[];
}

const knownExits = new WeakMap<TableStore, Derived>();

/** The default exits of each device; those that an edit does not affect are reused from the previous network. */
function exitsOfAll(healthy: World, like: Derived | undefined): readonly (readonly Exit[])[] {
  const { store, touched } = healthy;
  return healthy.state.network.devices.map((device): readonly Exit[] => {
    const d = device.index;
    const same = like && !touched[d] && !like.world.touched[d] && store.isTakenOver(d);
    return same ? like.exits[d] : exitsOf(healthy, device);
  });
}

/** Where the defaults of a device lead, each exit once. */
function exitsOf(healthy: World, device: DeviceRecord): Exit[] {
  const { network } = healthy.state;
  // A provider is the exit of others and has none.
  if (device.role === "provider" || device.role === "internet") return [];
  const own: Exit[] = [];
  for (let c = device.firstCandidate; c < device.endCandidate; c++) {
    if (!isDefaultExit(network, c, device.role === "cloud")) continue;
    for (const hop of nextHopsOf(network, healthy.tablesOf(device.index), c)) {
      const place = hop.out - device.firstInterface;
      const known = own.some((exit) => exit.place === place && sameVia(exit.via, hop.address));
      if (!known) own.push({ place, via: hop.address });
    }
  }
  // Sorted by exit, not by route order: a gateway keeps its position when routes are rewritten.
  own.sort((a, b) => a.place - b.place || compareVia(a.via, b.via));
  // A host is no gateway, except if it chooses between several of its own. plain-ok
  const several = ([4, 6] as const).some((f) => own.filter((exit) => familyOf(exit) === f).length > 1);
  return device.role === "host" && !several ? [] : own;
}

function isDefaultExit(network: Network, c: number, cloud: boolean): boolean {
  const { candidates } = network;
  if (candidates.length[c] !== 0 || candidates.action[c] !== actionCodes.forward) return false;
  if (faults[candidates.fault[c]] === "disabled") return false;
  const written: number[] = [sourceCodes.static, sourceCodes.learned, sourceCodes.handedOut];
  return written.includes(candidates.source[c]) || (cloud && candidates.source[c] === sourceCodes.system);
}

function compareVia(a: Address | null, b: Address | null): number {
  if (!a || !b) return Number(a !== null) - Number(b !== null);
  return a.family - b.family || compareAddress(a, b);
}

function sameVia(a: Address | null, b: Address | null): boolean {
  return a && b ? sameAddress(a, b) : a === b;
}

const byInterface = new WeakMap<readonly GatewayRecord[], Map<number, number[]>>();

/** Positions of the gateways behind each interface; computed once per list. */
function gatewaysBehind(gateways: readonly GatewayRecord[]): Map<number, number[]> {
  let index = byInterface.get(gateways);
  if (!index) {
    index = new Map();
    for (const [g, gateway] of gateways.entries()) {
      for (const i of [gateway.interface, gateway.twin])
        if (i >= 0) index.set(i, [...(index.get(i) ?? []), g]);
    }
    byInterface.set(gateways, index);
  }
  return index;
}

/** The gateway by which a hop leaves, as a position in the list; -1 where it leaves by none. */
export function gatewayOfHop(gateways: readonly GatewayRecord[], hop: Hop): number {
  return hop.out < 0 || hop.to < 0 ? -1 : gatewayOfExit(gateways, hop.out, hop.nextHop);
}

const standing = new WeakMap<readonly GatewayRecord[], Int32Array>();

/** In place of a gateway's position: none stands behind the interface, or which one does goes by the next hop. */
export const NO_GATEWAY = -1;
export const BY_NEXT_HOP = -2;

/** For each interface the position of the gateway that stands behind it, NO_GATEWAY or BY_NEXT_HOP. */
export function gatewaysByExit(gateways: readonly GatewayRecord[], network: Network): Int32Array {
  let found = standing.get(gateways);
  if (!found) {
    found = new Int32Array(network.interfaces.count).fill(NO_GATEWAY);
    for (const [i, [first, ...others]] of gatewaysBehind(gateways))
      found[i] = [first, ...others].some((g) => gateways[g].via !== null) ? BY_NEXT_HOP : first;
    standing.set(gateways, found);
  }
  return found;
}

/** The gateway behind an interface by which a packet leaves to a next hop, or -1. */
export function gatewayOfExit(
  gateways: readonly GatewayRecord[],
  out: number,
  nextHop: Address | null,
): number {
  const here = gatewaysBehind(gateways).get(out);
  if (!here) return -1;
  const exact = here.find((g) => {
    const { via } = gateways[g];
    return via !== null && nextHop !== null && sameAddress(via, nextHop);
  });
  return exact ?? here.find((g) => gateways[g].via === null) ?? -1;
}

/** The gateways that carry, in the order in which the packets leave by them; over all ways given. */
export function carriersOf(gateways: readonly GatewayRecord[], walks: readonly Walk[]): number[] {
  const carriers: number[] = [];
  for (const walk of walks) {
    for (const hop of walk.hops) {
      const gateway = gatewayOfHop(gateways, hop);
      if (gateway >= 0 && !carriers.includes(gateway)) carriers.push(gateway);
    }
  }
  return carriers;
}

/** The gateways that carry a trip on its way out, over all its branches. */
export function carriersOfTrip(gateways: readonly GatewayRecord[], trip: Trip): number[] {
  return carriersOf(
    gateways,
    trip.branches.map((branch) => branch.outbound),
  );
}
