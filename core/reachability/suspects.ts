import { type Address, type Family, formatPrefix, type Prefix } from "../address/index.ts";
import { addressBook, type World } from "../forwarding/index.ts";
import { destinationOf, type Network, sourceCodes } from "../network/index.ts";
import { inUse, longestMatch, type NextHop, nextHopsOf } from "../rib/index.ts";
import { type AddressRange, rangesInside, rangesOf } from "./ranges.ts";
import { Remembered } from "./remembered.ts";

/** What two worlds could treat differently; what is left out they surely treat alike. */
export interface Suspects {
  /** The devices whose routes differ where nothing else does; null where more than routes differs. */
  readonly rewritten: readonly number[] | null;
  ranges(family: Family): AddressRange[];
  /** Of the devices given, those whose packets for a range could fare otherwise. */
  senders(range: AddressRange, devices: readonly number[]): readonly number[];
}

/**
 * Where only routes differ between two networks, a range matters if a device that was changed looks it up
 * otherwise, and a sender if its packets can pass such a device. Where anything else differs, all do.
 */
export function suspectsOf(before: World, after: World): Suspects {
  const networks = [before.state.network, after.state.network];
  const rewritten = rewrittenDevices(before, after);
  if (!rewritten) {
    return { rewritten, ranges: (family) => rangesOf(networks, family), senders: (_, devices) => devices };
  }
  const { devices } = networks[1];
  // What the devices that changed have now; of all others the first network has the same.
  const written = rewritten.flatMap((device) => {
    const { firstCandidate, endCandidate } = devices[device];
    return Array.from({ length: endCandidate - firstCandidate }, (_, n) =>
      destinationOf(networks[1], firstCandidate + n),
    );
  });
  const changed = rewritten.flatMap((device) => changedDestinations(before, after, device));
  return {
    rewritten,
    ranges: (family) => {
      const within = changed.filter((prefix) => prefix.address.family === family);
      if (within.length === 0) return [];
      return rangesInside(networks[0], written, family, within).filter(({ first }) =>
        rewritten.some((device) => looksUpOtherwise(before, after, device, first)),
      );
    },
    senders: ({ first }, devices) => {
      const passing = upstreamOf(before, rewritten, first);
      return devices.filter((device) => passing.has(device));
    },
  };
}

/** The devices whose routes differ where nothing else does; null where more than routes differs. */
function rewrittenDevices(before: World, after: World): number[] | null {
  const [a, b] = [before.state.network, after.state.network];
  const same = (x: Uint8Array, y: Uint8Array) => x.length === y.length && x.every((v, i) => v === y[i]);
  if (a.interfaces !== b.interfaces || a.links !== b.links) return null;
  if (!same(before.state.interfaceUp, after.state.interfaceUp)) return null;
  if (!same(before.state.interfaceAlive, after.state.interfaceAlive)) return null;
  if (!same(before.state.linkAlive, after.state.linkAlive)) return null;
  if (!same(before.state.deviceAlive, after.state.deviceAlive)) return null;
  if (!same(before.state.tunnelPasses, after.state.tunnelPasses)) return null;
  // With the same beliefs, a device that the plan leaves alone has the same tables.
  const believed =
    same(before.state.watchUp, after.state.watchUp) && same(before.state.answers, after.state.answers);
  const rewritten: number[] = [];
  for (const { index, profile } of b.devices) {
    const [old, now] = [a.plan.devices[index], b.plan.devices[index]];
    if (old === now && (believed || sameTables(before, after, index))) continue;
    const routesOnly = Object.keys({ ...old, ...now }).every(
      (key) =>
        old[key as keyof typeof old] === now[key as keyof typeof now] ||
        key === "routes" ||
        key === "watches",
    );
    // A return-path check looks the source up too, whatever the destination.
    if (!routesOnly || profile.returnPath !== "off") return null;
    rewritten.push(index);
  }
  return rewritten;
}

/** Whether a device that the plan leaves alone sees the same of itself. */
function sameTables(before: World, after: World, device: number): boolean {
  const [a, b] = [before.tablesOf(device), after.tablesOf(device)];
  return a.state.length === b.state.length && a.state.every((state, i) => state === b.state[i]);
}

/** Destinations for which a device's tables say otherwise, or that only one of them has. */
function changedDestinations(before: World, after: World, device: number): Prefix[] {
  const [old, now] = [before, after].map((world) => {
    const { network } = world.state;
    const record = network.devices[device];
    const said = new Map<string, { prefix: Prefix; says: string }>();
    for (let g = record.firstGroup; g < record.endGroup; g++) {
      const prefix = destinationOf(network, network.groups.start[g]);
      const says = groupSays(world, device, g);
      if (says) said.set(`${network.groups.table[g]} ${formatPrefix(prefix)}`, { prefix, says });
    }
    return said;
  });
  return [...new Set([...old.keys(), ...now.keys()])].flatMap((key) => {
    const [a, b] = [old.get(key), now.get(key)];
    return a?.says === b?.says ? [] : [(a ?? b)?.prefix as Prefix];
  });
}

function looksUpOtherwise(before: World, after: World, device: number, address: Address): boolean {
  const tables = after.tablesOf(device).device;
  const count = tables.vrfs.length + tables.policyTables.length;
  for (let table = 0; table < count; table++) {
    if (lookedUp(before, device, table, address) !== lookedUp(after, device, table, address)) return true;
  }
  return false;
}

/** What a table says for an address: the length of the match, the routes in use and where they lead. */
function lookedUp(world: World, device: number, table: number, address: Address): string {
  const { network } = world.state;
  const group = longestMatch(network, world.tablesOf(device), table, address);
  if (group < 0) return "";
  // Which prefix matched decides between a policy table that is an overlay and the table under it, and nothing else.
  const { policyTables } = network.devices[device];
  const length = policyTables.length ? network.candidates.length[network.groups.start[group]] : "";
  return `${length} ${groupSays(world, device, group)}`;
}

function groupSays(world: World, device: number, group: number): string {
  const { network } = world.state;
  const tables = world.tablesOf(device);
  return inUse(network, tables, group)
    .map((c) => {
      const hops = nextHopsOf(network, tables, c).map(hopText).join("+");
      return `${kindOf(network, c)} ${network.candidates.toVrf[c]} ${hops}`;
    })
    .join("|");
}

function kindOf(network: Network, c: number): string {
  const local = network.candidates.source[c] === sourceCodes.local ? "local" : "";
  return `${network.candidates.action[c]}${local}`;
}

function hopText({ out, address, peer }: NextHop): string {
  return `${out} ${peer} ${address ? `${address.w0}.${address.w1}.${address.w2}.${address.w3}` : ""}`;
}

/**
 * The devices whose packets to an address can come by one of those given: every table of every device is
 * followed, whichever the packet would take, so that none is missed. A superset of the true senders.
 */
function upstreamOf(world: World, targets: readonly number[], address: Address): Set<number> {
  const from = senders.of(world, address, -1, () => sendersTo(world, address));
  const reached = new Set(targets);
  const open = [...targets];
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    for (const device of from[at]) {
      if (reached.has(device)) continue;
      reached.add(device);
      open.push(device);
    }
  }
  return reached;
}

const senders = new Remembered<readonly (readonly number[])[]>();

/** For each device, those that can send it a packet to an address. */
function sendersTo(world: World, address: Address): number[][] {
  const { network } = world.state;
  const from: number[][] = network.devices.map(() => []);
  const number = addressBook(network).numberOf(address);
  for (const { index, vrfs, policyTables } of network.devices) {
    const rows = world.rowsOf(index);
    for (let table = 0; table < vrfs.length + policyTables.length; table++) {
      rows.forEachNext(table, number, (next) => from[network.interfaces.device[next]].push(index));
    }
  }
  return from;
}
