import { interfaceName, mediumCodes, type Network, type State, whyDown } from "../network/index.ts";

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
    case "nothing-received":
      return `${name} has no carrier: the link ${linkName(network, reason.link)} passes nothing towards ${network.devices[network.interfaces.device[i]].id}`;
    case "under-failed":
      return `${name} has no carrier: the link ${linkName(network, reason.link)} rides on ${linkName(network, reason.under)}, which has failed`;
    case "parent-down":
      return `${name} has no carrier: its parent ${network.interfaces.names[reason.interface]} is down`;
    case "too-few-members":
      return `${name} is down: ${reason.up} of its members ${reason.up === 1 ? "is" : "are"} up, and it needs ${reason.needed}`;
    case "not-assured":
      return `${name} is down: no LACP from the far end`;
    case "stands-by":
      return `${name} is standby: ${network.devices[reason.device].id} is the active one of the pair`;
    case "far-end-down":
      return `${name} has no carrier: the far end ${interfaceName(network, reason.interface)} is down`;
    case "tunnel-underlay":
      return `${name} is down: its underlay does not work in both directions`;
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
  const kind = network.links.medium[link] === mediumCodes.bundle ? "bundle" : "tunnel";
  return `${kind} between ${interfaceName(network, ends[endStart[link]])} and ${interfaceName(network, ends[endStart[link] + 1])}`;
}
