import type { Address } from "../../address/index.ts";
import type { Network } from "../../network/index.ts";
import { chooseSource } from "../source.ts";
import { HOP_LIMIT, type Question } from "../walk.ts";
import type { World } from "../world.ts";
import { addressBook } from "./addresses.ts";
import { blindToSource, isWalkedInFull, plainFor } from "./glide.ts";
import { BRANCH, NONE, NOT_CHOSEN, ROW } from "./rows.ts";
import { LOOK, stepsOf } from "./steps.ts";

/** The devices on the way of a packet, the interfaces by which it leaves them, and those by which it comes in next. */
interface Trail {
  readonly devices: number[];
  readonly exits: number[];
  readonly entries: number[];
}

const emptyTrail = (): Trail => ({ devices: [], exits: [], entries: [] });

/** A flow that works and is plain on both its ways, from its end to the other and back. */
export interface PlainTrip {
  readonly source: Address;
  readonly out: Trail;
  readonly back: Trail;
}

/**
 * Whether a flow works where both its ways are so plain: one next hop everywhere, and nothing asked but the destination.
 * Where it says no, the flow may work all the same: it has to be walked.
 */
export function worksPlainly(world: World, question: Question): boolean {
  return runsPlainly(world, question, null, null) >= 0;
}

/** Both ways of a flow that works so plainly; null for any other. */
export function plainTrip(world: World, question: Question): PlainTrip | null {
  const [out, back] = [emptyTrail(), emptyTrail()];
  const source = runsPlainly(world, question, out, back);
  return source < 0 ? null : { source: addressBook(world.state.network).addresses[source], out, back };
}

/** The number of the source that a flow works with plainly, or -1. */
function runsPlainly(world: World, question: Question, out: Trail | null, back: Trail | null): number {
  const { device, vrf, destination, zone, pinned } = question;
  const { network } = world.state;
  if (vrf !== 0 || zone !== undefined || pinned || isWalkedInFull(world)) return -1;
  const book = addressBook(network);
  const to = book.numberOf(destination);
  const from = question.source ? book.numberOf(question.source) : plainSource(world, device, to);
  if (from < 0 || ownerOf(world, from) !== device) return -1;
  return arrives(world, device, to, out) && arrives(world, ownerOf(world, to), from, back) ? from : -1;
}

/** Whether a packet arrives plainly at the one that answers for its destination. */
function arrives(world: World, sender: number, destination: number, trail: Trail | null): boolean {
  const owner = ownerOf(world, destination);
  return (
    owner >= 0 &&
    blindToSource(world.state.network)[owner] === 1 &&
    follow(world, sender, destination, trail) === owner
  );
}

/** The device that owns an address now, if exactly one can and the address is not shared; else -1. */
function ownerOf({ state }: World, address: number): number {
  const { answerers, linkLocal, virtual } = addressBook(state.network);
  const { interfaces } = state.network;
  const [by, another] = answerers[address];
  const plain = by !== undefined && another === undefined && !linkLocal[address] && !virtual[address];
  return plain && interfaces.vrf[by] === 0 && state.interfaceUp[by] ? interfaces.device[by] : -1;
}

/**
 * Takes a packet from its sender from device to device as long as all is plain, at least one hop, to the one that answers for
 * its destination; gives where it came to, -1 where the way ends before.
 */
function follow(world: World, sender: number, destination: number, trail: Trail | null): number {
  const { network, linkAlive, interfaceAlive, deviceAlive } = world.state;
  const { answerers, linkLocal, virtual, addresses } = addressBook(network);
  if (linkLocal[destination] || virtual[destination] || answerers[destination].length > 1) return -1;
  if (!deviceAlive[sender] || !sendsByRoutes(network, sender)) return -1;
  const { device: deviceOf, link: linkOf } = network.interfaces;
  const owner = answerers[destination].length === 1 ? deviceOf[answerers[destination][0]] : -1;
  const plain = plainFor(network, addresses[destination].family);
  const steps = stepsOf(network, world.store);
  const off = steps.offIn(world);
  const towards = steps.towards(destination);
  let device = sender;
  for (let hops = 0; hops < HOP_LIMIT && device !== owner; hops++) {
    // What a device sends itself it need not be one to forward.
    if (hops > 0 && plain[device] === 0) return -1;
    const step = steps.at(towards, world, off, device, destination);
    if (towards[step] === LOOK) return -1;
    const next = towards[step] - 1;
    const out = towards[step + 1];
    if (!linkAlive[linkOf[out]] || !interfaceAlive[next]) return -1;
    trail?.devices.push(device);
    trail?.exits.push(out);
    trail?.entries.push(next);
    device = deviceOf[next];
    if (device === owner) return device;
  }
  return -1;
}

/** Whether a device sends by its routes alone, whether it forwards or not. */
export function sendsByRoutes(network: Network, device: number): boolean {
  return blindToSource(network)[device] === 1 && network.devices[device].role !== "internet";
}

/** The source that a device chooses for packets sent directly to an address; NONE if there is none, or no plain one. */
export function plainSource(world: World, device: number, destination: number): number {
  const { network } = world.state;
  const book = addressBook(network);
  const rows = world.rowsOf(device);
  const row = rows.straight(destination);
  if (row < 0) return NONE;
  const at = row + ROW.size + BRANCH.source;
  if (rows.cells[at] === NOT_CHOSEN) {
    const hop = rows.hopOf(destination);
    const chosen = chooseSource(world.state, network.devices[device], hop, book.addresses[destination]);
    rows.cells[at] = chosen ? book.numberOf(chosen) : NONE;
  }
  const source = rows.cells[at];
  return source >= 0 && !book.linkLocal[source] ? source : NONE;
}
