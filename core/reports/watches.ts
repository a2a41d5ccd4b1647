import { assumesHosts } from "../network/index.ts";
import type { Watch } from "../plan/index.ts";
import { probeSending } from "../settle/index.ts";
import { type World, walkBothWays } from "../walk/index.ts";
import { assumedIn } from "./path.ts";

export interface DeviceWatch {
  readonly watch: Watch;
  readonly up: boolean;
  /** The target of a probe that is up only because a host that the plan does not draw is taken to answer (rule 2.8). */
  readonly assumed?: string;
}

/** The watches of a device, by its index, and how they stand. */
export function watchesOf(world: World, device: number): DeviceWatch[] {
  const { network, watchUp } = world.state;
  const { firstWatch, endWatch } = network.devices[device];
  return network.watches.slice(firstWatch, endWatch).map((record): DeviceWatch => {
    const up = watchUp[record.index] === 1;
    const sending = up && assumesHosts(network) ? probeSending(world, record) : null;
    const [assumed] = sending ? assumedIn(walkBothWays(world, sending)) : [];
    return { watch: record.watch, up, ...(assumed ? { assumed } : {}) };
  });
}
