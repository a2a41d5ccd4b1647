import type { Address, Family, Prefix } from "../address/index.ts";
import type { Plan, Profile, Role, Watch } from "../plan/index.ts";
import type { Matching } from "./matching.ts";

/**
 * A plan compiled for computing. Devices, interfaces, links, watches and route candidates are numbers;
 * what there is many of lies in flat numeric columns, one entry an item, four words an address.
 * Columns of the items of one owner lie together: those of owner i are `start[i]` to `start[i + 1]`.
 */
export interface Network {
  readonly plan: Plan;
  readonly devices: readonly DeviceRecord[];
  readonly deviceIndex: ReadonlyMap<string, number>;
  readonly interfaces: Interfaces;
  /** Position of "device/name" among the interfaces. */
  readonly interfaceIndex: ReadonlyMap<string, number>;
  readonly addresses: Addresses;
  readonly links: Links;
  readonly candidates: Candidates;
  readonly groups: Groups;
  /** Each device's candidates by themselves; what an edit leaves alone is the very same one in both networks. */
  readonly layouts: readonly DeviceLayout[];
  readonly watches: readonly WatchRecord[];
  readonly tunnels: readonly TunnelRecord[];
  readonly bundles: readonly BundleRecord[];
  /** Virtual routers, one for each family (rule 14), and those that hear each other on a link. */
  readonly virtuals: readonly VirtualRecord[];
  readonly virtualGroups: readonly VirtualGroup[];
  readonly pairs: readonly PairRecord[];
  /** For each device, twice the number of its pair, and one more for the second member; -1 for none. */
  readonly pairPlace: Int32Array;
  /** For each interface, the one of the pair's other member that shares its addresses, or -1. */
  readonly twin: Int32Array;
  /** What fails together (rule 16.2): risks, then sites. */
  readonly fates: readonly FateRecord[];
  /** Prefixes that some provider announces, reachable at the moment or not. */
  readonly announced: readonly Prefix[];
}

export interface DeviceRecord {
  readonly index: number;
  readonly id: string;
  readonly label: string;
  readonly role: Role;
  /** Not modeled beyond this device: its forwarding is unknown. */
  readonly outline: boolean;
  readonly profile: Profile;
  readonly profileId: string;
  readonly forwards: { readonly 4: boolean; readonly 6: boolean };
  /** VRF names, "main" first; the device's route tables are numbered likewise, policy tables after them. */
  readonly vrfs: readonly string[];
  readonly policyTables: readonly PolicyTableRecord[];
  readonly policy: PolicyRecord | null;
  readonly sourceNat: readonly SourceNatRecord[];
  readonly destinationNat: readonly DestinationNatRecord[];
  readonly marks: readonly MarkRecord[];
  readonly firstInterface: number;
  readonly endInterface: number;
  readonly firstCandidate: number;
  readonly endCandidate: number;
  readonly firstGroup: number;
  readonly endGroup: number;
  readonly firstWatch: number;
  readonly endWatch: number;
}

/** What a packet must be like (rule 6.10); null: anything. */
export interface Steered {
  /** Interfaces that packets come in by, or null for any way in and packets of the device's own. */
  readonly incoming: ReadonlySet<number> | null;
  readonly from: readonly Prefix[] | null;
  readonly to: readonly Prefix[] | null;
  readonly protocol: string | null;
  /** The first and last destination port; 0 and 0: any. */
  readonly firstPort: number;
  readonly lastPort: number;
}

export interface PolicyTableRecord extends Steered {
  readonly name: string;
  /** Its number among the device's route tables. */
  readonly table: number;
  readonly vrf: number;
  readonly overlay: boolean;
  /** The mark that a packet must bear, or null. */
  readonly mark: number | null;
}

export interface MarkRecord extends Steered {
  readonly set: number;
}

/** Translation of a destination (rule 6.9). */
export interface DestinationNatRecord {
  readonly incoming: ReadonlySet<number>;
  readonly to: Address;
  readonly protocol: string | null;
  /** The destination port, or null for any; and the one put in its place. */
  readonly port: number | null;
  readonly via: Address;
  readonly viaPort: number | null;
}

export interface PolicyRecord {
  /** The place of each zone in the order of trust, the most trusted first; empty where the policy has none. */
  readonly trust: ReadonlyMap<string, number>;
  readonly betweenZones: PolicyDefault;
  readonly withinZone: PolicyDefault;
  readonly rules: readonly PolicyRuleRecord[];
}

/** The action if no rule matches; `ofProfile` if the policy itself has no default. */
export interface PolicyDefault {
  readonly verdict: "allow" | "deny";
  readonly ofProfile: boolean;
}

export interface PolicyRuleRecord {
  readonly from: ReadonlySet<string> | null;
  readonly to: ReadonlySet<string> | null;
  readonly allow: boolean;
  readonly source: readonly Prefix[];
  readonly destination: readonly Prefix[];
  readonly protocol: string | null;
  readonly firstPort: number;
  readonly lastPort: number;
}

export interface SourceNatRecord {
  readonly out: number;
  readonly from: readonly Prefix[] | null;
  /** The address put in place of the source; null: that of the outgoing interface. */
  readonly to: Address | null;
}

export interface Interfaces {
  readonly count: number;
  readonly names: readonly string[];
  readonly zones: readonly (string | null)[];
  readonly device: Int32Array;
  readonly vrf: Int32Array;
  /** 1 where the neighbour needs no address: serial lines and tunnels. */
  readonly pointToPoint: Uint8Array;
  readonly loopback: Uint8Array;
  readonly enabled: Uint8Array;
  /** 1 where it answers ARP for addresses that its device routes elsewhere. */
  readonly proxyArp: Uint8Array;
  /** 1 for interfaces that are up though no link names them (rule 2.8). */
  readonly assumedUp: Uint8Array;
  readonly metric: Float64Array;
  /** The link it ends, or -1. */
  readonly link: Int32Array;
  /** Its tunnel record, or -1. */
  readonly tunnel: Int32Array;
  /** Its bundle record, or -1; and that of the bundle that it is a member of, or -1. */
  readonly bundle: Int32Array;
  readonly memberOf: Int32Array;
  /** The interface that its tagged frames pass, or -1, and the tag, or 0. */
  readonly parent: Int32Array;
  readonly vlan: Int32Array;
  /** Tagged interfaces by the one that they pass. */
  readonly tagged: ReadonlyMap<number, readonly number[]>;
  readonly addressStart: Int32Array;
}

export interface Addresses {
  readonly count: number;
  readonly family: Uint8Array;
  readonly words: Uint32Array;
  readonly length: Uint8Array;
  readonly interface: Int32Array;
}

export const mediumCodes = { cable: 0, switch: 1, circuit: 2, tunnel: 3, bundle: 4 } as const;

export interface Links {
  /** All links; those of the plan first, then one for each pair of tunnel ends, or of bundles, that no link joins. */
  readonly count: number;
  readonly planned: number;
  readonly ids: readonly string[];
  /** A multipoint link has the carrier of a circuit (rule 2.7). */
  readonly medium: Uint8Array;
  /** The interface that all others of a link reach alone, or -1 where all reach all. */
  readonly hub: Int32Array;
  readonly endStart: Int32Array;
  readonly ends: Int32Array;
  /** The links that ride on a link, on those that ride on it, and so on (rule 16.1). */
  readonly riders: ReadonlyMap<number, readonly number[]>;
  /** Cables that join unlike tags: nothing passes (rule 15.2). */
  readonly crossed: readonly number[];
}

/** A bundle (rule 15.1). */
export interface BundleRecord {
  readonly index: number;
  readonly interface: number;
  readonly members: readonly number[];
  readonly minUp: number;
  /** How often its ends assure each other, in milliseconds; 0: never. */
  readonly lacpMs: number;
  /** For each member, the far ends that belong to what the bundle leads to. */
  readonly leads: readonly (readonly number[])[];
  /** For each member, whether its link has no far end that the plan knows. */
  readonly blind: readonly boolean[];
  /** For each member, whether both ends assure each other. */
  readonly assured: readonly boolean[];
}

/** A virtual router of one family on an interface (rule 14). */
export interface VirtualRecord {
  readonly index: number;
  readonly interface: number;
  readonly id: number;
  readonly family: Family;
  readonly addresses: readonly Address[];
  /** 255 for the owner. */
  readonly priority: number;
  readonly owner: boolean;
  readonly preempt: boolean;
  readonly preemptDelayMs: number;
  readonly advertMs: number;
  readonly accept: boolean;
  readonly track: readonly { readonly watch: number; readonly interface: number; readonly lower: number }[];
  /** The interface's own first address of the family; null where it has none. */
  readonly primary: Address | null;
  readonly group: number;
  /** Virtual routers of its device that are Active together with it, itself among them (rule 14.7). */
  readonly together: readonly number[];
}

/** Virtual routers of one id and family on one link, ascending. */
export interface VirtualGroup {
  readonly link: number;
  readonly members: readonly number[];
}

/** Two devices that are one to their neighbours (rule 17); `members` by number. */
export interface PairRecord {
  readonly index: number;
  readonly id: string;
  readonly members: readonly [number, number];
  /** Which member is active while both are well: 0 or 1. */
  readonly preferred: 0 | 1;
  readonly preempt: boolean;
  readonly helloMs: number;
  readonly missed: number;
  readonly heartbeats: readonly number[];
  /** For each member, the interfaces and watches it monitors, by number. */
  readonly monitors: readonly [Monitored, Monitored];
  readonly syncStates: boolean;
}

export interface Monitored {
  readonly interfaces: readonly number[];
  readonly watches: readonly number[];
}

/** A risk or a site, and the links, devices and interfaces that fail with it, as element numbers, ascending. */
export interface FateRecord {
  readonly ref: string;
  readonly label: string;
  readonly elements: readonly number[];
}

/** Where a candidate came from; the order decides between sources of one distance. */
export const sourceCodes = {
  local: 0,
  connected: 1,
  static: 2,
  learned: 3,
  handedOut: 4,
  system: 5,
  announced: 6,
} as const;

export const actionCodes = { forward: 0, drop: 1, reject: 2, vrf: 3 } as const;
export const resolveCodes = { connected: 0, "not-default": 1, any: 2 } as const;

/** Why a candidate can never be active; "" if there is no fault. */
export const faults = [
  "",
  "disabled",
  "forwarding-off",
  "next-hop-own-address",
  "next-hop-network-address",
  "next-hop-broadcast-address",
  "next-hop-not-on-interface",
  "link-local-without-interface",
  "interface-next-hop-refused",
  "interface-required",
  "second-default-refused",
  "distance-too-great",
  "no-gateway-offered",
] as const;
export type Fault = (typeof faults)[number];

export interface Candidates {
  readonly count: number;
  readonly device: Int32Array;
  readonly table: Int32Array;
  readonly group: Int32Array;
  readonly source: Uint8Array;
  /** For learned and handed-out routes, the protocol's place in `protocols`. */
  readonly protocol: Int32Array;
  readonly protocols: readonly string[];
  readonly family: Uint8Array;
  readonly destination: Uint32Array;
  readonly length: Uint8Array;
  readonly hasVia: Uint8Array;
  readonly via: Uint32Array;
  readonly out: Int32Array;
  /** The interface at the far end where the plan settles it (system, announced, handed out), or -1. */
  readonly peer: Int32Array;
  /** -1 where the device's family knows no distance. */
  readonly distance: Int32Array;
  readonly metric: Float64Array;
  readonly resolve: Uint8Array;
  readonly action: Uint8Array;
  readonly toVrf: Int32Array;
  readonly watch: Int32Array;
  readonly fault: Uint8Array;
  /** The candidate's slot among those that depend on a neighbour's answer, or on a virtual router's role; or -1. */
  readonly answer: Int32Array;
  /** The candidate of each slot. */
  readonly answering: Int32Array;
  /** Position in the device's or policy table's own list in the plan. */
  readonly order: Int32Array;
  /** Groups that hold the next hop, longest prefix first; only where it must be resolved. */
  readonly coverStart: Int32Array;
  readonly cover: Int32Array;
}

/** The columns of candidates that say how they stand among others. */
type PlacedColumns =
  | "count"
  | "device"
  | "group"
  | "protocol"
  | "protocols"
  | "answer"
  | "answering"
  | "coverStart"
  | "cover";

/**
 * One device's candidates in order, those of one destination together, in columns; all numbers count from the device's
 * first. What an edit leaves alone is kept from one network to the next.
 */
export interface DeviceLayout {
  readonly count: number;
  /** `out` and `watch` count from the device's first; `peer` is a place among the ends of the link that `out` is on. */
  readonly columns: Omit<Candidates, PlacedColumns>;
  /** The group of each candidate. */
  readonly group: Int32Array;
  /** For learned and handed-out routes, the protocol's place in `protocols`; else -1. */
  readonly protocol: Int32Array;
  readonly protocols: readonly string[];
  /** Candidates that depend on a neighbour's answer, ascending. */
  readonly answering: Int32Array;
  /** First candidate of each group, and its table. Equal networks share the same list object. */
  readonly groupStart: Int32Array;
  readonly groupTable: Int32Array;
  /** For each candidate, where its covers begin; one more at the end. Covers are groups, the longest first. */
  readonly coverStart: Int32Array;
  readonly cover: Int32Array;
  /** Which destinations hold an address, in use or not. */
  readonly matching: Matching;
}

/** Candidates of one destination in one table, next to each other. */
export interface Groups {
  readonly count: number;
  readonly start: Int32Array;
  readonly table: Int32Array;
}

export interface WatchRecord {
  readonly index: number;
  readonly device: number;
  readonly watch: Watch;
  /** For a group: its members' positions. */
  readonly members: readonly number[];
  /** The interface that a session or an interface watch stands on; -1 for others. */
  readonly port: number;
  /** The address that a session names. */
  readonly peer: Address | null;
  /** The session that the far end holds for this one (rule 9.2), or -1. */
  readonly partner: number;
  /** Set for a probe. */
  readonly probe: ProbeRecord | null;
  /** The destination and VRF of a watched route. */
  readonly route: { readonly to: Prefix; readonly vrf: number } | null;
}

/** Where a probe's packets go and how they leave, as written (rule 9.3). */
export interface ProbeRecord {
  readonly target: Address;
  /** The interface, named directly or as the target's zone; or -1. */
  readonly out: number;
  readonly source: Address | null;
  /** The interface whose address is the source, or -1. */
  readonly sourcePort: number;
  readonly via: Address | null;
}

export interface TunnelRecord {
  readonly index: number;
  readonly interface: number;
  readonly peer: number;
  readonly to: Address;
  /** Where outer packets leave from: as written, else the address that the far end names; null: rule 6.1 chooses. */
  readonly from: Address | null;
  readonly vrf: number;
  readonly keepaliveMs: number;
  readonly failAfter: number;
  /** Whether the far end takes its packets: they come from where that leads to, and go to where that leaves from. */
  readonly accepted: boolean;
}

/** The four words at a position of a column of addresses. */
export function addressAt(words: Uint32Array, family: Family, index: number): Address {
  const at = index * 4;
  return { family, w0: words[at], w1: words[at + 1], w2: words[at + 2], w3: words[at + 3] };
}

export function destinationOf(network: Network, candidate: number): Prefix {
  const c = network.candidates;
  return {
    address: addressAt(c.destination, c.family[candidate] as Family, candidate),
    length: c.length[candidate],
  };
}

export function viaOf(network: Network, candidate: number): Address | null {
  const c = network.candidates;
  return c.hasVia[candidate] ? addressAt(c.via, c.family[candidate] as Family, candidate) : null;
}

/** The interfaces that a link joins. */
export function endsOf(links: Links, link: number): Int32Array {
  return links.ends.subarray(links.endStart[link], links.endStart[link + 1]);
}

/** How many groups the device with the most has. */
export function mostGroups({ layouts }: Network): number {
  return layouts.reduce((most, { groupStart }) => Math.max(most, groupStart.length), 0);
}
