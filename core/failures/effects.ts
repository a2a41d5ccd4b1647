import { NumberLists } from "../collections/index.ts";
import {
  type ElementNumber,
  type ElementParts,
  elementCount,
  elementParts,
  expandElements,
  linkElement,
  mediumCodes,
  type Network,
} from "../network/index.ts";
import type { Inputs } from "./dependence.ts";

/** Elements whose failure has the same effect on the network: failing a cable, or the interface at either end, takes
 * carrier from both. One element represents each class. */
export interface EffectClass {
  /** The element that is simulated for the class. */
  readonly element: ElementNumber;
  readonly members: readonly ElementNumber[];
}

export function effectClasses(network: Network): EffectClass[] {
  const classes: { element: ElementNumber; members: ElementNumber[] }[] = [];
  /** The class of each element with the same effect, as position plus one. */
  const like = new Int32Array(elementCount(network));
  const together = new Map<string, number>();
  for (let element = 0; element < like.length; element++) {
    const does = effectOf(network, element);
    const known = typeof does === "number" ? like[does] : (together.get(does) ?? 0);
    if (known) {
      classes[known - 1].members.push(element);
      continue;
    }
    classes.push({ element, members: [element] });
    if (typeof does === "number") like[does] = classes.length;
    else together.set(does, classes.length);
  }
  return classes;
}

/** Finds the classes whose failure touches any of some inputs, ascending. */
export class Touching {
  private readonly byDevice: NumberLists;
  private readonly byInterface: NumberLists;
  private readonly byWatch: NumberLists;
  /** By class: whether it touches the elements last asked for. */
  private readonly found: Uint8Array;

  constructor(network: Network, classes: readonly EffectClass[]) {
    this.found = new Uint8Array(classes.length);
    this.byDevice = new NumberLists(network.devices.length);
    this.byInterface = new NumberLists(network.interfaces.count);
    this.byWatch = new NumberLists(network.watches.length);
    for (const [k, { members }] of classes.entries()) {
      for (const element of expandElements(network, members)) {
        const { kind, index } = elementParts(network, element);
        if (kind === "device") this.byDevice.add(index, k);
        else if (kind === "watch") this.byWatch.add(index, k);
        forEachTouched(network, kind, index, (i) => this.byInterface.add(i, k));
      }
    }
  }

  any({ devices, interfaces, watches }: Inputs): number[] {
    const { found } = this;
    found.fill(0);
    const mark = (k: number) => {
      found[k] = 1;
    };
    devices.each((d) => this.byDevice.each(d, mark));
    interfaces.each((i) => this.byInterface.each(i, mark));
    watches.each((w) => this.byWatch.each(w, mark));
    const list: number[] = [];
    for (let k = found.indexOf(1); k >= 0; k = found.indexOf(1, k + 1)) list.push(k);
    return list;
  }
}

/** What an element's failure does: what another element's does, or what several do together. */
function effectOf(network: Network, element: ElementNumber): ElementNumber | string {
  const { kind, index } = elementParts(network, element);
  if (kind === "fate") {
    const { elements } = network.fates[index];
    return elements.length === 1 ? effectOf(network, elements[0]) : elements.join();
  }
  if (kind !== "link" && kind !== "interface") return element;
  const { interfaces, links } = network;
  const link = kind === "link" ? index : interfaces.link[index];
  if (link < 0 || links.medium[link] !== mediumCodes.cable) return element;
  const tagged = kind === "interface" && interfaces.parent[index] >= 0;
  const tunnel = someEnd(network, link, (end) => interfaces.tunnel[end] >= 0);
  // Where routes are kept without carrier, taking an interface down does more than cutting its cable.
  const keeps = someEnd(network, link, (end) => keepsRoutes(network, interfaces.device[end]));
  return tagged || tunnel || keeps ? element : linkElement(network, link);
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
