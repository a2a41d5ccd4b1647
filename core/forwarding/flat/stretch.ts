import type { Address } from "../../address/index.ts";
import type { Network } from "../../network/index.ts";
import { type GatewayRecord, gatewayInterfaces, gatewayOfExit } from "../gateways.ts";
import { chooseSource } from "../source.ts";
import { HOP_LIMIT } from "../walk.ts";
import type { World } from "../world.ts";
import { addressBook } from "./addresses.ts";
import { blindToSource, plainFor } from "./glide.ts";
import { BRANCH, NONE, NOT_CHOSEN, ROW } from "./rows.ts";
import { LOOK, stepsOf } from "./steps.ts";

/** The first part of a packet's way: the devices that send it on, and the interface by which it leaves each of them. */
export interface Stretch {
  readonly devices: readonly number[];
  readonly exits: readonly number[];
  /** The device that it leads to. */
  readonly to: number;
}

/**
 * The way of a packet from a device to the first of some others, where all devices on it look at nothing but the
 * destination and have one next hop, which answers: every packet that sets out there for the address goes it. Null where
 * it does not lead to one of them so plainly, or the sender has no source to send from.
 */
export function stretchTo(
  world: World,
  sender: number,
  destination: Address,
  ends: ReadonlySet<number>,
): Stretch | null {
  const { network, linkAlive, interfaceAlive, deviceAlive } = world.state;
  const book = addressBook(network);
  const number = book.numberOf(destination);
  const answerers = book.answerers[number];
  if (book.linkLocal[number] || book.virtual[number] || answerers.length > 1 || !deviceAlive[sender])
    return null;
  const { device: deviceOf, link: linkOf } = network.interfaces;
  const owner = answerers.length === 1 ? deviceOf[answerers[0]] : -1;
  const plain = plainFor(network, destination.family);
  const steps = stepsOf(network, world.store);
  const off = steps.offIn(world);
  const towards = steps.towards(number);
  const devices: number[] = [];
  const exits: number[] = [];
  let device = sender;
  while (!ends.has(device)) {
    // What a device sends itself it need not be one to forward.
    const sends = devices.length === 0 ? sendsByRoutes(network, device) : plain[device] === 1;
    if (!sends || device === owner || devices.length >= HOP_LIMIT) return null;
    let next: number;
    let out: number;
    if (off[device]) {
      const rows = world.rowsOf(device);
      const row = rows.straight(number);
      if (row < 0) return null;
      next = rows.cells[row + ROW.size + BRANCH.owner];
      out = rows.cells[row + ROW.size + BRANCH.out];
    } else {
      const step = towards[device * 2] || steps.fill(towards, device, number);
      if (step === LOOK) return null;
      next = step - 1;
      out = towards[device * 2 + 1];
    }
    if (!linkAlive[linkOf[out]] || !interfaceAlive[next]) return null;
    if (devices.length === 0 && !hasSource(world, device, number)) return null;
    devices.push(device);
    exits.push(out);
    device = deviceOf[next];
  }
  return { devices, exits, to: device };
}

/** Whether a device sends by its routes alone, whether it forwards or not. */
function sendsByRoutes(network: Network, device: number): boolean {
  return blindToSource(network)[device] === 1 && network.devices[device].role !== "internet";
}

/** Whether a device has a source, link-local ones of IPv6 left out, for what it sends straight on to an address itself. */
function hasSource(world: World, device: number, number: number): boolean {
  const { network } = world.state;
  const book = addressBook(network);
  const rows = world.rowsOf(device);
  const branch = rows.straight(number) + ROW.size;
  let source = rows.cells[branch + BRANCH.source];
  if (source === NOT_CHOSEN) {
    const chosen = chooseSource(
      world.state,
      network.devices[device],
      rows.hopOf(number),
      book.addresses[number],
    );
    source = chosen ? book.numberOf(chosen) : NONE;
    rows.cells[branch + BRANCH.source] = source;
  }
  return source >= 0 && !book.linkLocal[source];
}

/** Positions of the gateways that a packet to an address leaves by on a stretch. */
export function carriersOnStretch(
  world: World,
  gateways: readonly GatewayRecord[],
  { devices, exits }: Stretch,
  destination: Address,
): number[] {
  const { network } = world.state;
  const isExit = gatewayInterfaces(gateways, network);
  const carriers: number[] = [];
  for (let k = 0; k < exits.length; k++) {
    if (!isExit[exits[k]]) continue;
    const hop = world.rowsOf(devices[k]).hopOf(addressBook(network).numberOf(destination));
    const gateway = gatewayOfExit(gateways, hop.out, hop.address);
    if (gateway >= 0 && !carriers.includes(gateway)) carriers.push(gateway);
  }
  return carriers;
}
