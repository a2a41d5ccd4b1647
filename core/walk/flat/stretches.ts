import type { Address } from "../../address/index.ts";
import { BY_NEXT_HOP, type GatewayRecord, gatewayOfExit, gatewaysByExit } from "../gateways.ts";
import { HOP_LIMIT } from "../walk.ts";
import type { World } from "../world.ts";
import { addressBook } from "./addresses.ts";
import { isWalkedInFull, plainFor } from "./glide.ts";
import { plainSource, sendsByRoutes } from "./plain.ts";
import { NONE } from "./rows.ts";
import { LOOK, type Steps, stepsOf } from "./steps.ts";

/** The first part of a packet's way: the devices that send it on, and the interface by which it leaves each of them. */
export interface Stretch {
  readonly devices: readonly number[];
  readonly exits: readonly number[];
}

/** Nobody has asked yet how a device's packets go on; and: they come to none of the ends plainly. */
const UNKNOWN = -2;
const NOWHERE = -1;

/**
 * The ways of packets to an address from any sender to the first of some ends, where all devices on them look at nothing but
 * the destination and have one next hop, which answers: every packet that sets out there goes them. Where ways meet they
 * are followed once. Time: of the devices passed, not of the senders.
 */
export class Stretches {
  private readonly number: number;
  private readonly steps: Steps;
  private readonly off: Uint8Array;
  private readonly towards: Uint16Array;
  private readonly plain: Uint8Array;
  /** The device that answers for the destination, or -1. */
  private readonly owner: number;
  /** Whether packets to the address go by routes alone. */
  private readonly isPlain: boolean;
  /** By device that passes packets on: the end that they come to, and in how many hops. */
  private readonly ends: Int32Array;
  private readonly hops: Int32Array;
  /** The interface by which the device that was asked last is left. */
  private out = -1;

  constructor(
    private readonly world: World,
    private readonly destination: Address,
    ends: Iterable<number>,
  ) {
    const { network } = world.state;
    const book = addressBook(network);
    this.number = book.numberOf(destination);
    const [by, another] = book.answerers[this.number];
    const isOwnedByOne = !book.linkLocal[this.number] && !book.virtual[this.number] && another === undefined;
    this.isPlain = isOwnedByOne && !isWalkedInFull(world);
    this.owner = by === undefined ? -1 : network.interfaces.device[by];
    this.plain = plainFor(network, destination.family);
    this.steps = stepsOf(network, world.store);
    this.off = this.steps.offIn(world);
    this.towards = this.steps.towards(this.number);
    this.ends = new Int32Array(network.devices.length).fill(UNKNOWN);
    this.hops = new Int32Array(network.devices.length);
    for (const end of ends) this.ends[end] = end;
  }

  /** The end that a sender's packets come to, and in how many hops; null for none, or where the sender has no source to send from. */
  from(sender: number): { readonly end: number; readonly hops: number } | null {
    const { network, deviceAlive } = this.world.state;
    if (!this.isPlain || sender === this.owner || !deviceAlive[sender] || !sendsByRoutes(network, sender))
      return null;
    const next = this.next(sender);
    if (next < 0) return null;
    const end = this.reached(next);
    if (end < 0 || plainSource(this.world, sender, this.number) === NONE) return null;
    return { end, hops: this.hops[next] + 1 };
  }

  /** The way of a sender's packets to the end that they come to. */
  of(sender: number): Stretch {
    const [devices, exits] = [[] as number[], [] as number[]];
    let device = sender;
    do {
      devices.push(device);
      device = this.next(device);
      exits.push(this.out);
    } while (this.hops[device] > 0);
    return { devices, exits };
  }

  /** Positions of the gateways that packets leave by on a stretch; in the same world or another in which they go it too. */
  carriersOn(world: World, gateways: readonly GatewayRecord[], { devices, exits }: Stretch): number[] {
    const gatewayAt = gatewaysByExit(gateways, world.state.network);
    const number = addressBook(world.state.network).numberOf(this.destination);
    const carriers: number[] = [];
    for (let k = 0; k < exits.length; k++) {
      const standing = gatewayAt[exits[k]];
      const gateway =
        standing === BY_NEXT_HOP
          ? gatewayOfExit(gateways, exits[k], world.rowsOf(devices[k]).hopOf(number).address)
          : standing;
      if (gateway >= 0 && !carriers.includes(gateway)) carriers.push(gateway);
    }
    return carriers;
  }

  /** The end that packets come to which a device passes on; NOWHERE for none. */
  private reached(device: number): number {
    const { ends, hops, owner, plain } = this;
    const passed: number[] = [];
    let at = device;
    while (ends[at] === UNKNOWN) {
      const next = at === owner || !plain[at] || passed.length >= HOP_LIMIT ? -1 : this.next(at);
      if (next < 0) ends[at] = NOWHERE;
      else {
        passed.push(at);
        at = next;
      }
    }
    for (let k = passed.length - 1; k >= 0; k--) {
      ends[passed[k]] = ends[at];
      hops[passed[k]] = hops[at] + passed.length - k;
    }
    return ends[device];
  }

  /** The next device; -1 if it needs a closer look, or no host answers. */
  private next(device: number): number {
    const { world, towards } = this;
    const { network, linkAlive, interfaceAlive } = world.state;
    const step = this.steps.at(towards, world, this.off, device, this.number);
    if (towards[step] === LOOK) return -1;
    const next = towards[step] - 1;
    this.out = towards[step + 1];
    if (!linkAlive[network.interfaces.link[this.out]] || !interfaceAlive[next]) return -1;
    return network.interfaces.device[next];
  }
}
