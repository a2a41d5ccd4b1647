import { interfaceName, type Network, type State, whyDown } from "../network/index.ts";

/** Why an interface is down, as the rest of a sentence: "wan1 is down: the link tern-a has failed". */
export function downText(state: State, i: number): string {
  const { network } = state;
  const name = network.interfaces.names[i];
  const reason = whyDown(state, i);
  if (!reason) return `${name} is up`;
  switch (reason.code) {
    case "device-failed":
      return `${name} is down: the device has failed`;
    case "interface-failed":
      return `${name} is down: it has failed`;
    case "interface-disabled":
      return `${name} is down: it is not enabled`;
    case "link-failed":
      return `${name} has no carrier: the link ${linkName(network, reason.link)} has failed`;
    case "far-end-down":
      return `${name} has no carrier: the far end ${interfaceName(network, reason.interface)} is down`;
    case "tunnel-underlay":
      return `${name} is down: its underlay does not deliver both ways`;
    case "tunnel-through-itself":
      return `${name} is down: its underlay leads into the tunnel itself`;
    case "no-link":
      return `${name} has no carrier: no link of the plan ends there`;
  }
}

/** A link as people name it: its label, its id, or the ends of a tunnel. */
export function linkName(network: Network, link: number): string {
  const planned = network.plan.links[link];
  if (planned) return planned.label ?? planned.id;
  const { endStart, ends } = network.links;
  return `tunnel between ${interfaceName(network, ends[endStart[link]])} and ${interfaceName(network, ends[endStart[link] + 1])}`;
}
