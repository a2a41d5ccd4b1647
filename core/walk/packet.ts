import type { Address, Prefix } from "../address/index.ts";
import type { EdgeNetwork } from "../network/index.ts";

export type Protocol = "icmp" | "tcp" | "udp";

export interface Packet {
  readonly source: Address;
  readonly destination: Address;
  readonly protocol: Protocol;
  /** Destination port; null if the protocol has none, or if the sender chooses it freely. */
  readonly port: number | null;
}

/** What a device did with a packet. Devices, interfaces and candidates by number; -1 for none. */
export interface Hop {
  readonly device: number;
  readonly vrf: number;
  readonly in: number;
  /** The destination that matched, and the candidate that was followed. */
  readonly match: Prefix | null;
  readonly candidate: number;
  readonly out: number;
  readonly nextHop: Address | null;
  /** The next device; the same one where the packet goes on in another VRF. */
  readonly to: number;
  /** The source that translation put in place here. */
  readonly translated: Address | null;
  /** The policy decision that let it pass, if it was judged as a new packet. */
  readonly decision?: PolicyDecision;
}

/** The part of a policy that decided on a new packet: a rule by position, the order of trust, or a default. */
export interface PolicyDecision {
  readonly allows: boolean;
  readonly by:
    | { readonly kind: "rule"; readonly place: number }
    | { readonly kind: "trust" }
    /** `ofProfile`: the policy says nothing of it, so the profile does. */
    | { readonly kind: "default"; readonly within: boolean; readonly ofProfile: boolean };
}

/** How a packet can die (rule 6.7). */
export const dropCodes = [
  "no-route",
  "discarded",
  "rejected",
  "neighbour-silent",
  "link-dead",
  "looped",
  "policy-denied",
  "no-state",
  "return-path",
  "private-at-internet",
  "host-not-listening",
  "forwarding-off",
  "source-not-own",
  "no-source",
  "device-down",
  "wrong-device",
  "link-local",
  "hop-limit",
  "beyond-outline",
  "virtual-not-accepted",
  "half-session",
] as const;
export type DropCode = (typeof dropCodes)[number];

export interface Drop {
  readonly code: DropCode;
  readonly device: number;
  readonly packet: Packet | null;
  /** What the sentence speaks of, where the code has more to tell. */
  readonly address: Address | null;
  readonly out: number;
  readonly neighbour: number;
  readonly zones: readonly [string | null, string | null] | null;
  readonly circle: readonly number[];
  /** The policy decision that denied it. */
  readonly decision?: PolicyDecision;
}

/** A change of source, or of destination, that a device made and will undo for replies. */
export interface Session {
  readonly device: number;
  readonly original: Address;
  readonly translated: Address;
  readonly end: "source" | "destination";
  /** Of a source that is the address of the exit (`to: interface`): that interface. By another one the binding ends (rule 18). */
  readonly exit?: number;
}

/** One way of a packet through the network. */
export interface Walk {
  readonly result: "delivered" | "dropped" | "looped";
  readonly hops: readonly Hop[];
  readonly drop: Drop | null;
  /** The packet as it arrived where it ended; null where it was never sent. */
  readonly packet: Packet | null;
  readonly sessions: readonly Session[];
  /** The share of the sender's packets that takes this way; less than 1 where routes share the load (rule 5.1). */
  readonly share: number;
  /** The VRF in which it was delivered, or -1. */
  readonly vrf: number;
  /** Where it was delivered to a host that the plan does not draw: its subnet (rule 2.8). */
  readonly assumed?: EdgeNetwork;
}
