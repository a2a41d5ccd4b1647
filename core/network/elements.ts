import { type Element, type Interface, parseElement } from "../plan/index.ts";
import type { Network } from "./network.ts";

/**
 * What can fail, numbered through: the plan's links first, then devices, interfaces, watches, what fails together
 * (rule 16.2), and after all these the directions of links (rule 2.6), by the end that nothing reaches. A set of failed
 * elements is a sorted list of these numbers.
 */
export type ElementNumber = number;

/** The number of elements, without link directions, which fail only if named. */
export function elementCount(network: Network): number {
  return fateElement(network, network.fates.length);
}

export const linkElement = (_network: Network, link: number): ElementNumber => link;
export const deviceElement = (network: Network, device: number): ElementNumber =>
  network.links.planned + device;
export const interfaceElement = (network: Network, i: number): ElementNumber =>
  network.links.planned + network.devices.length + i;
export const watchElement = (network: Network, watch: number): ElementNumber =>
  network.links.planned + network.devices.length + network.interfaces.count + watch;

export const fateElement = (network: Network, fate: number): ElementNumber =>
  watchElement(network, network.watches.length) + fate;

/** The direction of a link towards the device of one of its ends, by that end's place among `network.links.ends`. */
const directionElement = (network: Network, end: number): ElementNumber => elementCount(network) + end;

/** `fate` is a risk or a site by its position in `network.fates`. `direction` is a direction of a link, by the position
 * of its first unreachable end. */
export type ElementParts = { kind: Exclude<Element["kind"], "risk" | "site"> | "fate"; index: number };

export function elementParts(network: Network, element: ElementNumber): ElementParts {
  let index = element;
  if (index < network.links.planned) return { kind: "link", index };
  index -= network.links.planned;
  if (index < network.devices.length) return { kind: "device", index };
  index -= network.devices.length;
  if (index < network.interfaces.count) return { kind: "interface", index };
  index -= network.interfaces.count;
  if (index < network.watches.length) return { kind: "watch", index };
  index -= network.watches.length;
  if (index < network.fates.length) return { kind: "fate", index };
  return { kind: "direction", index: index - network.fates.length };
}

/** Elements with what fails together taken apart: links, devices, interfaces, watches and directions, ascending. */
export function expandElements(network: Network, failed: readonly ElementNumber[]): readonly ElementNumber[] {
  const first = fateElement(network, 0);
  // The elements are ascending; only fates and directions come after these.
  if (failed.length === 0 || failed[failed.length - 1] < first) return failed;
  const expanded = new Set<ElementNumber>();
  for (const element of failed) {
    if (element < first || element >= directionElement(network, 0)) expanded.add(element);
    else for (const one of network.fates[element - first].elements) expanded.add(one);
  }
  return [...expanded].sort((a, b) => a - b);
}

/** The reference as plans write it: link:ID, device:ID, interface:DEVICE/NAME, watch:DEVICE/ID, risk:ID, site:NAME. */
export function formatElement(network: Network, element: ElementNumber): string {
  const { kind, index } = elementParts(network, element);
  if (kind === "link") return `link:${network.links.ids[index]}`;
  if (kind === "device") return `device:${network.devices[index].id}`;
  if (kind === "interface") return `interface:${interfaceName(network, index)}`;
  if (kind === "fate") return network.fates[index].ref;
  if (kind === "direction") {
    const link = linkOfEnd(network, index);
    return `link:${network.links.ids[link]}@${network.devices[network.interfaces.device[network.links.ends[index]]].id}`;
  }
  const record = network.watches[index];
  return `watch:${network.devices[record.device].id}/${record.watch.id}`;
}

/** The number of an element that a reference names; null where the network has no such element. */
export function findElement(network: Network, text: string): ElementNumber | null {
  const element = parseElement(text);
  if (!element) return null;
  if (element.kind === "link") {
    const link = network.links.ids.indexOf(element.id);
    return link < 0 ? null : linkElement(network, link);
  }
  if (element.kind === "direction") {
    const { ids, ends, endStart } = network.links;
    const link = ids.indexOf(element.link);
    const device = network.deviceIndex.get(element.device);
    for (let e = endStart[link] ?? 0; link >= 0 && e < endStart[link + 1]; e++)
      if (network.interfaces.device[ends[e]] === device) return directionElement(network, e);
    return null;
  }
  if (element.kind === "device") {
    const device = network.deviceIndex.get(element.id);
    return device === undefined ? null : deviceElement(network, device);
  }
  if (element.kind === "interface") {
    const i = network.interfaceIndex.get(`${element.device}/${element.name}`);
    return i === undefined ? null : interfaceElement(network, i);
  }
  if (element.kind === "risk" || element.kind === "site") {
    const fate = network.fates.findIndex(({ ref }) => ref === text);
    return fate < 0 ? null : fateElement(network, fate);
  }
  const device = network.deviceIndex.get(element.device);
  const watch = network.watches.findIndex((w) => w.device === device && w.watch.id === element.id);
  return watch < 0 ? null : watchElement(network, watch);
}

/** The link that an end belongs to, by the end's place among `network.links.ends`. */
function linkOfEnd({ links }: Network, end: number): number {
  return links.endStart.findIndex((start, link) => start <= end && end < links.endStart[link + 1]);
}

/** "device/name" of an interface. */
export function interfaceName(network: Network, i: number): string {
  return `${network.devices[network.interfaces.device[i]].id}/${network.interfaces.names[i]}`;
}

/** An interface as the plan has it. */
export function interfaceWritten({ plan, interfaces }: Network, i: number): Interface {
  const { interfaces: ports } = plan.devices[interfaces.device[i]];
  return ports.find(({ name }) => name === interfaces.names[i]) as Interface;
}
