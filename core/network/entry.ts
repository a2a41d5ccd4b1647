import type { Address, Prefix } from "../address/index.ts";
import { actionCodes, type DeviceRecord, type Fault, resolveCodes } from "./network.ts";

/** One candidate route before it is laid into columns. */
export interface Entry {
  table: number;
  vrf: number;
  source: number;
  protocol: string | null;
  to: Prefix;
  via: Address | null;
  out: number;
  peer: number;
  distance: number;
  metric: number;
  resolve: number;
  action: number;
  toVrf: number;
  /** The watch's place among the device's own, or -1. */
  watch: number;
  fault: Fault;
  /** Usable only while the neighbour answers, or while the next hop is not the device itself. */
  needsAnswer: boolean;
  order: number;
  /** Whether `via` must be looked up in the table. */
  recursive: boolean;
}

export type Settled = Pick<
  DeviceRecord,
  "role" | "profile" | "forwards" | "vrfs" | "policyTables" | "firstInterface" | "endInterface" | "firstWatch"
>;

/** A forwarding route out of an interface, with nothing else said of it; the caller says the rest. */
export function plainEntry(vrf: number, source: number, to: Prefix, out: number): Entry {
  // One by one, and all at once: large plans have many, and spreading objects costs more than all else here.
  return {
    table: vrf,
    vrf,
    source,
    protocol: null,
    to,
    via: null,
    out,
    peer: -1,
    distance: 0,
    metric: 0,
    resolve: resolveCodes.any,
    action: actionCodes.forward,
    toVrf: -1,
    watch: -1,
    fault: "",
    needsAnswer: false,
    order: 0,
    recursive: false,
  };
}
