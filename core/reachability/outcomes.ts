import { type Family, isMulticast } from "../address/index.ts";
import {
  carriersOf,
  type FlatEnd,
  flatTrips,
  type GatewayRecord,
  type Question,
  type World,
  walkPacket,
} from "../walk/index.ts";
import type { AddressRange } from "./ranges.ts";

/** The outcome of a packet from one device to any address of a range. */
export type RangeOutcome = FlatEnd;

/** One of two compared worlds, with the exits that distinguish its flows. */
export interface Side {
  readonly world: World;
  readonly gateways: readonly GatewayRecord[];
}

/** The outcome of a range in both worlds. */
export interface Fate {
  readonly before: RangeOutcome;
  readonly after: RangeOutcome;
}

/** A packet from a device to the first address of a range, out only; the worst where several ways share the load. */
export function outcomeOf(
  world: World,
  gateways: readonly GatewayRecord[],
  device: number,
  range: AddressRange,
): RangeOutcome {
  const inNumbers = flatTrips(world.state.network).end(world, probeOf(device, range), gateways);
  if (inNumbers) return inNumbers;
  const walks = walkPacket(world, probeOf(device, range));
  const worst = walks.find((walk) => walk.result !== "delivered") ?? walks[0];
  return {
    result: worst.result,
    at: worst.hops[worst.hops.length - 1].device,
    code: worst.drop?.code ?? null,
    single: walks.length === 1,
    carriers: carriersOf(gateways, walks),
    way: worst.hops.map((hop) => hop.device),
    exits: worst.hops.map((hop) => hop.out),
  };
}

/** The packet that represents all from a device to a range. */
export function probeOf(device: number, range: AddressRange): Question {
  return { device, vrf: 0, source: null, destination: range.first, protocol: "icmp", port: null };
}

/** Devices that packets start from: all of the plan's own. */
export function entryPoints(world: World): number[] {
  return world.state.network.devices
    .filter((device) => device.role !== "internet" && device.role !== "provider")
    .map((device) => device.index);
}

/** Multicast is not routed by static routes. */
export function isOfInterest(range: AddressRange): boolean {
  return !isMulticast(range.first);
}

export const families: readonly Family[] = [4, 6];
