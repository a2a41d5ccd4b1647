import type { Question, Trip } from "../forwarding/index.ts";
import { type ElementNumber, elementParts, type Network, ownersOf } from "../network/index.ts";

/** The devices that a flow runs between: its sender, and whoever receives it or owns its destination. */
export function endDevices(network: Network, question: Question, trip: Trip | null): number[] {
  const ends = new Set([question.device]);
  for (const i of ownersOf(network, question.destination)) ends.add(network.interfaces.device[i]);
  for (const { outbound } of trip?.branches ?? []) {
    if (outbound.result === "delivered") ends.add(outbound.hops[outbound.hops.length - 1].device);
  }
  return [...ends];
}

/** Said wherever it is told what a flow survives. */
export const OWN_ENDS_LEFT_OUT =
  "not counting failures of the flow's own endpoints, their interfaces and cables";

/**
 * Whether an element is one of a flow's ends, or an interface or a link of one: nothing could help there, so these
 * do not count among what must be survived. The internet has no interfaces of its own in that sense: a flow to it must
 * survive the loss of one of the links by which it is reached.
 */
export function isOwnEnd(network: Network, ends: readonly number[], element: ElementNumber): boolean {
  const { interfaces, links, devices } = network;
  const { kind, index } = elementParts(network, element);
  // What fails together and holds an end is none that anything could help against (rule 16.2).
  if (kind === "fate") return network.fates[index].elements.some((one) => isOwnEnd(network, ends, one));
  if (kind === "device") return ends.includes(index);
  if (kind === "watch") return false;
  const near = ends.filter((d) => devices[d].role !== "internet" && devices[d].role !== "provider");
  if (kind === "interface") {
    const link = interfaces.link[index];
    return near.includes(interfaces.device[index]) || (link >= 0 && touches(link));
  }
  return touches(index);

  function touches(link: number): boolean {
    for (let e = links.endStart[link]; e < links.endStart[link + 1]; e++) {
      if (near.includes(interfaces.device[links.ends[e]])) return true;
    }
    return false;
  }
}
