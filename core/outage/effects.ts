import {
  type ElementNumber,
  elementCount,
  elementParts,
  endsOf,
  mediumCodes,
  type Network,
} from "../network/index.ts";

/**
 * Elements whose failure does the very same to the network, told by what it does: for a cable, failing
 * the link or the interface at either end takes carrier from both. One of each class stands for all.
 */
export interface EffectClass {
  /** The element that is simulated for the class. */
  readonly element: ElementNumber;
  readonly members: readonly ElementNumber[];
  /** Devices whose tables or whose contact with a neighbour the failure can change at once. */
  readonly devices: readonly number[];
}

export function effectClasses(network: Network): EffectClass[] {
  const classes = new Map<string, { element: ElementNumber; members: ElementNumber[]; devices: number[] }>();
  for (let element = 0; element < elementCount(network); element++) {
    const key = effectOf(network, element);
    const known = classes.get(key);
    if (known) known.members.push(element);
    else classes.set(key, { element, members: [element], devices: [] });
  }
  const list = [...classes.values()];
  for (const entry of list)
    entry.devices = [...new Set(entry.members.flatMap((e) => touchedDevices(network, e)))];
  return list;
}

function effectOf(network: Network, element: ElementNumber): string {
  const { kind, index } = elementParts(network, element);
  if (kind === "watch") return `watch ${index}`;
  if (kind === "device") return `device ${index}`;
  const { interfaces, links } = network;
  const link = kind === "link" ? index : interfaces.link[index];
  const tunnel =
    link >= 0 && Array.from(endsOf(network.links, link)).some((end) => interfaces.tunnel[end] >= 0);
  if (link >= 0 && links.medium[link] === mediumCodes.cable && !tunnel) return `cable ${link}`;
  return `${kind} ${index}`;
}

function touchedDevices(network: Network, element: ElementNumber): number[] {
  const { kind, index } = elementParts(network, element);
  const { interfaces } = network;
  const around = (i: number): number[] => {
    const link = interfaces.link[i];
    const ends = link < 0 ? [] : Array.from(endsOf(network.links, link));
    return [interfaces.device[i], ...ends.map((end) => interfaces.device[end])];
  };
  if (kind === "watch") {
    const { device, watch } = network.watches[index];
    if (watch.kind !== "bfd") return [device];
    return [
      device,
      ...around(network.interfaceIndex.get(`${network.devices[device].id}/${watch.interface}`) as number),
    ];
  }
  if (kind === "link") return Array.from(endsOf(network.links, index)).map((end) => interfaces.device[end]);
  if (kind === "interface") return around(index);
  const { firstInterface, endInterface } = network.devices[index];
  const list = [index];
  for (let i = firstInterface; i < endInterface; i++) list.push(...around(i));
  return list;
}
