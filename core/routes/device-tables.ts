import type { Address, Prefix } from "../address/index.ts";
import { Block } from "../collections/index.ts";
import {
  type DeviceRecord,
  destinationOf,
  longestHolding,
  type Matching,
  type Network,
  sourceCodes,
} from "../network/index.ts";
import { stateCodes } from "./codes.ts";

/**
 * The route tables of one device under one local state: every candidate with what became of it,
 * and the lookup over those in use. Candidates and groups are counted from the device's first.
 */
export interface DeviceTables {
  readonly device: DeviceRecord;
  readonly state: Uint8Array;
  readonly reason: Uint8Array;
  /** What the reason speaks of: a candidate that won (counted network-wide), or the group it waited on. */
  readonly detail: Int32Array;
  /** Where the next hop of a candidate without `out` was found: a group (network-wide), or -1. */
  readonly through: Int32Array;
  /** Chains that met themselves once routes were in use, by the candidate (network-wide) that is unusable for it. */
  readonly circles: ReadonlyMap<number, readonly number[]>;
  /** Candidates usable while next hops were resolved, including a dead gateway's route: 1 for usable, else -1; and the
   * depth of each chain. */
  readonly resolved: Int8Array;
  readonly depth: Uint8Array;
  /** Which destinations hold an address, in use or not. */
  readonly matching: Matching;
  /** Answers computed on first use. */
  readonly answered: AnswerCache;
  /** A cache of forwarding rows, owned by the module that computes them: shared by all tables that forward alike. */
  readonly sends: { kept: unknown };
}

/** What tables have answered; most are never asked for all of it, so each list is made when the first comes in. */
export class AnswerCache {
  private byGroup: Map<number, GroupRoute> | null = null;
  private byCandidate: Map<number, readonly NextHop[]> | null = null;
  private byWatch: Map<number, unknown> | null = null;

  /** The routes of groups. */
  get routes(): Map<number, GroupRoute> {
    this.byGroup ??= new Map();
    return this.byGroup;
  }

  /** The next hops of candidates. */
  get nextHops(): Map<number, readonly NextHop[]> {
    this.byCandidate ??= new Map();
    return this.byCandidate;
  }

  /** How the device's probe packets leave, by watch; the type is private to the module that sends them. */
  get sendings(): Map<number, unknown> {
    this.byWatch ??= new Map();
    return this.byWatch;
  }
}

/** What became of each candidate, one number each. */
export type CandidateStates = Pick<
  DeviceTables,
  "state" | "reason" | "detail" | "through" | "resolved" | "depth"
>;

/** Arrays for the states of `count` candidates. */
export function candidateStatesOf(count: number): CandidateStates {
  const block = new Block(count * (2 * 4 + 4));
  return {
    detail: block.ints(count),
    through: block.ints(count),
    state: block.bytes(count),
    reason: block.bytes(count),
    depth: block.bytes(count),
    resolved: block.signedBytes(count),
  };
}

/** A writable copy of the candidate states of other tables. */
export function candidateStatesLike(like: CandidateStates): CandidateStates {
  const states = candidateStatesOf(like.state.length);
  states.detail.set(like.detail);
  states.through.set(like.through);
  states.state.set(like.state);
  states.reason.set(like.reason);
  states.depth.set(like.depth);
  states.resolved.set(like.resolved);
  return states;
}

/** What a group comes to: its destination, and its candidates in use (network-wide), local routes left out. */
export interface GroupRoute {
  readonly match: Prefix;
  readonly candidates: readonly number[];
  readonly policyTable: null;
}

/** Where a route sends a packet: out of an interface, to a next hop or straight to the destination. */
export interface NextHop {
  readonly out: number;
  /** null: the destination itself must answer. */
  readonly address: Address | null;
  /** The far interface where the plan settles it, or -1. */
  readonly peer: number;
}

/** The group (network-wide) that the longest match in a table leads to, or -1. */
export function longestMatch(
  network: Network,
  tables: DeviceTables,
  table: number,
  address: Address,
): number {
  const { matching, device } = tables;
  let g = longestHolding(matching, table, address);
  while (g >= 0 && !isInUse(network, tables, device.firstGroup + g)) g = matching.shorter[g];
  return g < 0 ? -1 : device.firstGroup + g;
}

/** Whether a group has a route in use; local ones are no routes (rule 6.1). */
function isInUse(network: Network, tables: DeviceTables, group: number): boolean {
  for (let c = network.groups.start[group]; c < network.groups.start[group + 1]; c++)
    if (isRouteInUse(network, tables, c)) return true;
  return false;
}

/** Whether a candidate (network-wide) is a route in use. */
export function isRouteInUse({ candidates }: Network, tables: DeviceTables, c: number): boolean {
  return (
    tables.state[c - tables.device.firstCandidate] === stateCodes["in-use"] &&
    candidates.source[c] !== sourceCodes.local
  );
}

/** The route that a group's candidates in use make. */
export function routeOf(network: Network, tables: DeviceTables, group: number): GroupRoute {
  const known = tables.answered.routes.get(group);
  if (known) return known;
  const { groups } = network;
  const list: number[] = [];
  for (let c = groups.start[group]; c < groups.start[group + 1]; c++)
    if (isRouteInUse(network, tables, c)) list.push(c);
  const match = destinationOf(network, groups.start[group]);
  const route = { match, candidates: list, policyTable: null };
  tables.answered.routes.set(group, route);
  return route;
}

/** The candidates (network-wide) of a group that are in use, local routes left out. */
export function inUse(network: Network, tables: DeviceTables, group: number): readonly number[] {
  return routeOf(network, tables, group).candidates;
}
