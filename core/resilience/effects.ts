import {
  type ElementNumber,
  type ElementParts,
  elementCount,
  elementParts,
  mediumCodes,
  type Network,
  struckBy,
} from "../network/index.ts";
import type { Inputs } from "./dependence.ts";

/**
 * Elements whose failure does the very same to the network, told by what it does: for a cable, failing
 * the link or the interface at either end takes carrier from both. One of each class stands for all.
 */
export interface EffectClass {
  /** The element that is simulated for the class. */
  readonly element: ElementNumber;
  readonly members: readonly ElementNumber[];
}

export function effectClasses(network: Network): EffectClass[] {
  const classes = new Map<string, { element: ElementNumber; members: ElementNumber[] }>();
  for (let element = 0; element < elementCount(network); element++) {
    const key = effectOf(network, element);
    const known = classes.get(key);
    if (known) known.members.push(element);
    else classes.set(key, { element, members: [element] });
  }
  return [...classes.values()];
}

/** Finds the classes whose failure touches any of some inputs, ascending. */
export class Touching {
  private readonly byDevice: number[][];
  private readonly byInterface: number[][];
  private readonly byWatch: number[][];
  /** By class, whether it touches what was asked for last. */
  private readonly found: Uint8Array;

  constructor(network: Network, classes: readonly EffectClass[]) {
    this.found = new Uint8Array(classes.length);
    this.byDevice = network.devices.map(() => []);
    this.byInterface = Array.from({ length: network.interfaces.count }, () => []);
    this.byWatch = network.watches.map(() => []);
    for (const [k, { members }] of classes.entries()) {
      for (const element of struckBy(network, members)) {
        const { kind, index } = elementParts(network, element);
        if (kind === "device") this.byDevice[index].push(k);
        else if (kind === "watch") this.byWatch[index].push(k);
        forEachTouched(network, kind, index, (i) => {
          const list = this.byInterface[i];
          if (list.length === 0 || list[list.length - 1] !== k) list.push(k);
        });
      }
    }
  }

  any({ devices, interfaces, watches }: Inputs): number[] {
    const { found } = this;
    found.fill(0);
    for (const d of devices) for (const k of this.byDevice[d]) found[k] = 1;
    for (const i of interfaces) for (const k of this.byInterface[i]) found[k] = 1;
    for (const w of watches) for (const k of this.byWatch[w]) found[k] = 1;
    const list: number[] = [];
    for (let k = found.indexOf(1); k >= 0; k = found.indexOf(1, k + 1)) list.push(k);
    return list;
  }
}

function effectOf(network: Network, element: ElementNumber): string {
  const { kind, index } = elementParts(network, element);
  if (kind === "fate") {
    const { elements } = network.fates[index];
    return elements.length === 1 ? effectOf(network, elements[0]) : `together ${elements.join()}`;
  }
  if (kind === "watch") return `watch ${index}`;
  if (kind === "device") return `device ${index}`;
  const { interfaces, links } = network;
  const link = kind === "link" ? index : interfaces.link[index];
  const tunnel = link >= 0 && someEnd(network, link, (end) => interfaces.tunnel[end] >= 0);
  // Where routes are kept without carrier, taking an interface down does more than cutting its cable.
  const keeps = link >= 0 && someEnd(network, link, (end) => keepsRoutes(network, interfaces.device[end]));
  const tagged = kind === "interface" && interfaces.parent[index] >= 0;
  if (link >= 0 && links.medium[link] === mediumCodes.cable && !tunnel && !keeps && !tagged)
    return `cable ${link}`;
  return `${kind} ${index}`;
}

function someEnd({ links }: Network, link: number, is: (end: number) => boolean): boolean {
  for (let k = links.endStart[link]; k < links.endStart[link + 1]; k++) if (is(links.ends[k])) return true;
  return false;
}

function keepsRoutes({ devices }: Network, device: number): boolean {
  return devices[device].profile.carrierLoss === "keep";
}

/** Calls for the interfaces that a failure can take down, or whose link it can kill; some are met twice. */
function forEachTouched(
  network: Network,
  kind: ElementParts["kind"],
  index: number,
  call: (i: number) => void,
) {
  if (kind === "link") {
    callEnds(network, index, call);
    callRiding(network, index, call);
  } else if (kind === "interface") callWithFarEnds(network, index, call);
  else if (kind === "device") {
    const { firstInterface, endInterface } = network.devices[index];
    for (let i = firstInterface; i < endInterface; i++) callWithFarEnds(network, i, call);
  }
}

function callEnds({ links }: Network, link: number, call: (i: number) => void) {
  for (let k = links.endStart[link]; k < links.endStart[link + 1]; k++) call(links.ends[k]);
}

function callRiding(network: Network, link: number, call: (i: number) => void) {
  for (const rider of network.links.riders.get(link) ?? []) callEnds(network, rider, call);
}

/** What fails at one end of a switch or a circuit takes carrier from no other. */
function callWithFarEnds(network: Network, i: number, call: (i: number) => void) {
  const { interfaces, links, bundles } = network;
  call(i);
  const link = interfaces.link[i];
  if (link < 0) return;
  const quiet = links.medium[link] === mediumCodes.switch || links.medium[link] === mediumCodes.circuit;
  const bundle = interfaces.memberOf[i] < 0 ? null : bundles[interfaces.memberOf[i]];
  // Members that assure each other know of what fails at the far end.
  const alone = quiet && !bundle?.assured[bundle.members.indexOf(i)];
  if (!alone) callEnds(network, link, call);
  callRiding(network, link, call);
}
