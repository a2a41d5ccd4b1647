import {
  type Address,
  containsAddress,
  type Family,
  formatAddress,
  hostPrefix,
  makeAddress,
  type Prefix,
  PrefixList,
} from "../address/index.ts";
import { onceFor } from "../collections/index.ts";
import { contactBy, destinationOf, type Network, ownerNow, sourceCodes } from "../network/index.ts";
import { inUse, longestMatch, type NextHop, nextHopsOf } from "../routes/index.ts";
import { addressBook, type World } from "../walk/index.ts";
import { alteredBetween, interfaceText } from "./altered.ts";
import { type AddressRange, rangesInside, rangesOf } from "./ranges.ts";
import { Remembered } from "./remembered.ts";

/** Ranges and senders that two worlds could treat differently; all others are surely equal. */
export interface Suspects {
  /** The only devices that could treat anything otherwise; null where more than these could. */
  readonly altered: readonly number[] | null;
  /** Of the altered devices, those that could treat packets to an address otherwise. */
  differingAt(address: Address): readonly number[];
  /** Ascending, computed lazily. */
  ranges(family: Family): Iterable<AddressRange>;
  /** Those of the given devices whose packets to a range could have another outcome. */
  senders(range: AddressRange, devices: readonly number[]): readonly number[];
}

/**
 * Where only some devices could treat packets otherwise, a range matters if one of them looks it up otherwise or owns it
 * in one world only, and a sender if its packets can pass such a device. Where anything else differs, all do.
 */
export function suspectsOf(before: World, after: World): Suspects {
  const altered = alteredBetween(before, after);
  if (!altered) return everythingSuspect(before, after);
  const { devices } = altered;
  const owned = altered.addresses.map(hostPrefix);
  const changed = [...owned, ...devices.flatMap((device) => changedDestinations(before, after, device))];
  const list = new PrefixList(changed, (prefix) => prefix);
  /** The devices that look an address up otherwise. */
  const otherwise = new Map<string, readonly number[]>();
  const differingAt = (first: Address): readonly number[] => {
    const key = formatAddress(first);
    let found = otherwise.get(key);
    if (!found) {
      const isOwned = owned.some((prefix) => containsAddress(prefix, first));
      if (isOwned) found = devices;
      else if (list.holding(hostPrefix(first)).length === 0) found = [];
      else found = devices.filter((device) => looksUpOtherwise(before, after, device, first));
      otherwise.set(key, found);
    }
    return found;
  };
  return {
    altered: devices,
    differingAt,
    *ranges(family) {
      const within = changed.filter((prefix) => prefix.address.family === family);
      if (within.length === 0) return;
      for (const range of rangesInside(before.state.network, within))
        if (differingAt(range.first).length > 0) yield range;
    },
    senders: ({ first }, from) => {
      const passing = upstreamOf(before, differingAt(first), first);
      return from.filter((device) => passing.has(device));
    },
  };
}

/** Every range, and every sender. */
export function everythingSuspect(before: World, after: World): Suspects {
  const networks = [before.state.network, after.state.network];
  return {
    altered: null,
    differingAt: () => before.state.network.devices.map(({ index }) => index),
    ranges: (family) => rangesOf(networks, family),
    senders: (_, devices) => devices,
  };
}

/** Destinations for which a device's tables say otherwise, or that only one of them has. */
function changedDestinations(before: World, after: World, device: number): Prefix[] {
  const old = answerCache.of(before, NOWHERE, device, () => tableAnswers(before, device));
  const now = tableAnswers(after, device);
  const changed: Prefix[] = [];
  for (const [key, { prefix, says }] of now) if (old.get(key)?.says !== says) changed.push(prefix);
  for (const [key, { prefix }] of old) if (!now.has(key)) changed.push(prefix);
  return changed;
}

/** What a device's tables say, by table and destination. */
type TableAnswers = ReadonlyMap<string, { readonly prefix: Prefix; readonly says: string }>;

const NOWHERE = makeAddress(4, 0);
const answerCache = new Remembered<TableAnswers>();

function tableAnswers(world: World, device: number): TableAnswers {
  const { network } = world.state;
  const record = network.devices[device];
  const found = new Map<string, { prefix: Prefix; says: string }>();
  for (let g = record.firstGroup; g < record.endGroup; g++) {
    const says = groupAnswer(world, device, g);
    if (!says) continue;
    const prefix = destinationOf(network, network.groups.start[g]);
    const { family, w0, w1, w2, w3 } = prefix.address;
    found.set(`${network.groups.table[g]} ${family} ${w0} ${w1} ${w2} ${w3} ${prefix.length}`, {
      prefix,
      says,
    });
  }
  return found;
}

function looksUpOtherwise(before: World, after: World, device: number, address: Address): boolean {
  const tables = after.tablesOf(device).device;
  const count = tables.vrfs.length + tables.policyTables.length;
  for (let table = 0; table < count; table++) {
    if (lookedUp(before, device, table, address) !== lookedUp(after, device, table, address)) return true;
  }
  return false;
}

/** A table's answer for an address: match length, active routes and their next hops. */
function lookedUp(world: World, device: number, table: number, address: Address): string {
  const { network } = world.state;
  const group = longestMatch(network, world.tablesOf(device), table, address);
  if (group < 0) return "";
  // Which prefix matched decides between a policy table that is an overlay and the table under it, and nothing else.
  const { policyTables } = network.devices[device];
  const length = policyTables.length ? network.candidates.length[network.groups.start[group]] : "";
  return `${length} ${groupAnswer(world, device, group)}`;
}

/** What the groups of routes of a world say, by their numbers. */
const saidByGroup = onceFor((_: World) => new Map<number, string>());

function groupAnswer(world: World, device: number, group: number): string {
  const known = saidByGroup(world);
  let says = known.get(group);
  if (says === undefined) {
    says = answerText(world, device, group);
    known.set(group, says);
  }
  return says;
}

function answerText(world: World, device: number, group: number): string {
  const { network } = world.state;
  const tables = world.tablesOf(device);
  return inUse(network, tables, group)
    .map((c) => {
      const hops = nextHopsOf(network, tables, c)
        .map((hop) => hopText(world, hop))
        .join("+");
      return `${kindOf(network, c)} ${network.candidates.toVrf[c]} ${hops}`;
    })
    .join("|");
}

function kindOf(network: Network, c: number): string {
  const local = network.candidates.source[c] === sourceCodes.local ? "local" : "";
  return `${network.candidates.action[c]}${local}`;
}

/** Where a next hop leads and who answers there, by names: numbers may differ between two networks. */
function hopText({ state }: World, { out, address, peer }: NextHop): string {
  const { network } = state;
  const owner = address || peer >= 0 ? ownerNow(state, out, address, peer) : -1;
  const text = (i: number) => interfaceText(network, i);
  const to = address ? `${address.w0}.${address.w1}.${address.w2}.${address.w3}` : "";
  return `${text(out)} ${text(peer)} ${to} ${text(owner)} ${contactBy(state, out, owner)}`;
}

/**
 * The devices whose packets to an address can come by one of those given: every table of every device is
 * followed, whichever the packet would take, so that none is missed. A superset of the true senders.
 */
function upstreamOf(world: World, targets: readonly number[], address: Address): Set<number> {
  const { latest, earlier, from } = senders.of(world, address, -1, () => sendersTo(world, address));
  const reached = new Set(targets);
  const open = [...targets];
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    for (let n = latest[at]; n >= 0; n = earlier[n]) {
      if (reached.has(from[n])) continue;
      reached.add(from[n]);
      open.push(from[n]);
    }
  }
  return reached;
}

/** Who can send a packet to whom: for each device its latest sending, and for each sending whose it is and the one before. */
interface Sendings {
  readonly latest: Int32Array;
  readonly earlier: readonly number[];
  readonly from: readonly number[];
}

const senders = new Remembered<Sendings>();

/** How packets to an address can go from device to device. */
function sendersTo(world: World, address: Address): Sendings {
  const { network } = world.state;
  const { device: deviceOf } = network.interfaces;
  const latest = new Int32Array(network.devices.length).fill(-1);
  const earlier: number[] = [];
  const from: number[] = [];
  const number = addressBook(network).numberOf(address);
  for (const { index, vrfs, policyTables } of network.devices) {
    const rows = world.rowsOf(index);
    const count = vrfs.length + policyTables.length;
    const take = (next: number) => {
      const to = deviceOf[next];
      earlier.push(latest[to]);
      latest[to] = from.push(index) - 1;
    };
    for (let table = 0; table < count; table++) rows.forEachNext(table, number, take);
  }
  return { latest, earlier, from };
}
