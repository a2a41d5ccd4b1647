import { type Address, containsAddress, formatAddress, formatPrefix } from "../address/index.ts";
import {
  contactBy,
  destinationOf,
  interfaceName,
  type State,
  sourceCodes,
  whyDown,
} from "../network/index.ts";
import type { Drop, PolicyDecision, Walk } from "../walk/index.ts";
import { downText, linkName } from "./interfaces.ts";

/**
 * How a packet died, in a sentence that names the device and the reason (rule 6.7). One case a code: a table, longer
 * than a screen because there are that many.
 */
export function dropText(state: State, walk: Walk, drop: Drop): string {
  const { network } = state;
  const { interfaces, devices } = network;
  const id = devices[drop.device].id;
  const to = drop.packet ? formatAddress(drop.packet.destination) : "";
  const from = drop.packet ? formatAddress(drop.packet.source) : "";
  const address = drop.address ? formatAddress(drop.address) : "";
  const out = drop.out >= 0 ? interfaces.names[drop.out] : "";
  const last = walk.hops[walk.hops.length - 1];
  switch (drop.code) {
    case "no-route":
      return devices[drop.device].role === "internet"
        ? `no reachable provider announces ${address} to the internet`
        : `${id} has no route to ${address}${vrfText(network.devices[drop.device], last)}${otherVrfText(state, drop, last)}`;
    case "discarded":
      return `${id} discards it silently by its route to ${last.match ? formatPrefix(last.match) : to}`;
    case "rejected":
      return `${id} rejects it by its route to ${last.match ? formatPrefix(last.match) : to} and notifies the sender`;
    case "neighbour-silent":
      return `next hop ${address} does not respond on ${out} of ${id}${silenceText(state, drop)}`;
    case "link-dead":
      return `${id} sends it out of ${out}, which is up, but ${linkText(state, drop)}, so the packet is lost`;
    case "looped": {
      const circle = drop.circle.map((device) => devices[device].id);
      return `it loops: ${[...circle, id].join(", ")}`;
    }
    case "policy-denied":
      return `the policy of ${id} denies ${zoneText(drop)} for ${from} to ${to}${drop.decision ? `: ${decisionText(drop.decision)}` : ""}`;
    case "no-state":
      return drop.zones
        ? `${id} has no session for it, and its policy allows no new flow ${zoneText(drop)}`
        : `the reply reaches ${id} from ${address}, not from the address that it was sent to`;
    case "half-session":
      return `${id} sees only this direction of the TCP session, so it drops all packets after the first`;
    case "return-path":
      return `${id} drops it: the return path to its source ${address} does not lead out of ${last.in >= 0 ? interfaces.names[last.in] : "there"}`;
    case "private-at-internet":
      return `the internet does not carry ${address}, which is not globally routable`;
    case "host-not-listening":
      return silenceText(state, drop)
        ? `${address} does not answer on ${out} of ${id}${silenceText(state, drop)}`
        : `no host has the address ${address} on the subnet of ${out} of ${id}`;
    case "forwarding-off":
      return `${id} does not forward IPv${familyOf(drop.packet?.destination)} packets`;
    case "source-not-own":
      return drop.out >= 0
        ? `${id} cannot send from ${address}: its interface ${downText(state, drop.out)}`
        : `${address} is not an address of ${id}`;
    case "virtual-not-accepted":
      return `${id} answers ARP for the virtual address ${address} but drops packets to it (accept is off)`;
    case "link-local":
      return walk.hops.length > 1
        ? `${id} does not forward it: the link-local address ${address} is valid only on its own link`
        : `${id} does not know the interface of the link-local address ${address}; write ${address}%${exampleInterface(state, drop.device)}`;
    case "hop-limit":
      return `its hop limit expires at ${id} after 63 routers`;
    case "beyond-outline":
      return `the network is not modeled beyond ${id}`;
    case "no-source":
      return `${id} has no address to send from when it leaves by ${out}`;
    case "device-down":
      return `${id} is down`;
    case "wrong-device":
      return `the reply to ${address} ends at ${id}, which is not the sender`;
  }
}

function exampleInterface({ network }: State, device: number): string {
  const { firstInterface, endInterface } = network.devices[device];
  return firstInterface < endInterface ? network.interfaces.names[firstInterface] : "wan1";
}

function familyOf(address: Address | undefined): number {
  return address?.family ?? 4;
}

function zoneText(drop: Drop): string {
  const [from, to] = drop.zones ?? [null, null];
  const name = (zone: string | null) => zone ?? "no zone";
  return `from ${name(from)} to ${name(to)}`;
}

/** Why a packet that leaves by an up interface is lost on its link. */
function linkText({ network, deaf }: State, { out, neighbour }: Drop): string {
  const link = network.interfaces.link[out];
  if (link < 0) return "its link is dead";
  const name = `the link ${linkName(network, link)}`;
  if (neighbour < 0 || !deaf?.[neighbour]) return `${name} is dead`;
  return `${name} passes nothing towards ${network.devices[network.interfaces.device[neighbour]].id}`;
}

/** Why the next hop does not respond, as the rest of a sentence; "" if there is no host. */
function silenceText(state: State, { out, neighbour }: Drop): string {
  const { network, forgotten } = state;
  const link = network.interfaces.link[out];
  if (out >= 0 && forgotten?.[out])
    return `: it can no longer be resolved, since the link ${linkName(network, link)} passes nothing towards ${network.devices[network.interfaces.device[out]].id}`;
  if (out >= 0 && link < 0) return ": the plan draws no link there";
  if (neighbour < 0) return "";
  const name = interfaceName(network, neighbour);
  if (contactBy(state, out, neighbour) === "nobody")
    return `: ${name} is reached by the hub of the link ${linkName(network, link)} alone`;
  const reason = whyDown(state, neighbour)?.code;
  if (reason === "device-failed")
    return `: ${network.devices[network.interfaces.device[neighbour]].id} has failed`;
  return reason === "interface-failed" ? `: ${name} has failed` : `: ${name} is down`;
}

/** The deciding part of a policy: "rule 3", "order of trust", "default of the profile". */
export function decisionText({ by }: PolicyDecision): string {
  if (by.kind === "rule") return `rule ${by.place + 1}`;
  if (by.kind === "trust") return "order of trust";
  return `${by.within ? "same-zone default" : "default"} of the ${by.ofProfile ? "profile" : "policy"}`;
}

/** Other VRFs of the device that have a route to the packet's destination, from the plan. */
function otherVrfText({ network }: State, drop: Drop, last: Walk["hops"][number] | undefined): string {
  const { firstCandidate, endCandidate, vrfs } = network.devices[drop.device];
  const { candidates } = network;
  const { address } = drop;
  if (vrfs.length < 2 || !address) return "";
  const own = Math.max(0, last?.vrf ?? 0);
  const found = new Set<string>();
  for (let c = firstCandidate; c < endCandidate; c++) {
    const vrf = candidates.table[c];
    if (vrf === own || vrf >= vrfs.length || candidates.source[c] === sourceCodes.local) continue;
    if (containsAddress(destinationOf(network, c), address)) found.add(vrfs[vrf]);
  }
  return found.size > 0 ? `, but has one in VRF ${[...found].join(", ")}` : "";
}

/** The VRF in which a device looked, where it has several. */
function vrfText(
  { vrfs }: { readonly vrfs: readonly string[] },
  last: Walk["hops"][number] | undefined,
): string {
  return vrfs.length > 1 ? ` in VRF ${vrfs[Math.max(0, last?.vrf ?? 0)]}` : "";
}
