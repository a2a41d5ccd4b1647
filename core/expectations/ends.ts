import {
  deviceElement,
  type ElementNumber,
  edgesOf,
  elementParts,
  interfaceElement,
  linkElement,
  type Network,
  ownersOf,
} from "../network/index.ts";
import type { Question } from "../walk/index.ts";

/** What a flow runs between. */
export interface FlowEnds {
  /** Its sender, and whoever owns its destination. */
  readonly devices: readonly number[];
  /** For a host that is not drawn: its device, interface and link if no other gateway is possible (rule 2.8). */
  readonly edge: ReadonlySet<ElementNumber>;
}

export function endsOfFlow(network: Network, question: Question): FlowEnds {
  const devices = new Set([question.device]);
  const { interfaces, links } = network;
  for (const i of ownersOf(network, question.destination)) devices.add(interfaces.device[i]);
  const edges = edgesOf(network, question.destination).map((edge) => edge.interface);
  const edge = new Set<ElementNumber>();
  if (new Set(edges.map((i) => interfaces.device[i])).size === 1)
    for (const i of edges) {
      edge.add(deviceElement(network, interfaces.device[i])).add(interfaceElement(network, i));
      const link = interfaces.link[i];
      if (link >= 0 && link < links.planned) edge.add(linkElement(network, link));
    }
  return { devices: [...devices], edge };
}

/** Shown wherever the failures that a flow survives are listed. */
export const OWN_ENDS_LEFT_OUT =
  "not counting failures of the flow's own endpoints, their interfaces and cables";

/** Whether an element is an end of the flow, or an interface or link of an end. No routing survives the loss of an end,
 * so these are not counted. The internet is an exception: a flow to it must survive the loss of each link that reaches
 * it. */
export function isOwnEnd(network: Network, ends: FlowEnds, element: ElementNumber): boolean {
  const { interfaces, links, devices } = network;
  const { kind, index } = elementParts(network, element);
  // What fails together and holds an end is none that anything could help against (rule 16.2).
  if (kind === "fate") return network.fates[index].elements.some((one) => isOwnEnd(network, ends, one));
  if (ends.edge.has(element)) return true;
  if (kind === "device") return ends.devices.includes(index);
  if (kind === "watch") return false;
  const near = ends.devices.filter((d) => devices[d].role !== "internet" && devices[d].role !== "provider");
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
