import type { SessionSettings } from "./bfd/session.ts";
import type { VirtualSettings } from "./virtual/election.ts";

/** A route as iproute2 takes it, behind "add" or "del", that stands only while a watch is up. */
export interface WatchedRoute {
  readonly watch: string;
  /** Without the word in front: "172.20.0.0/16 via 172.20.0.2 dev core metric 1". */
  readonly words: string;
}

export interface ProbeOrder {
  readonly kind: "probe";
  readonly id: string;
  readonly intervalMs: number;
  readonly timeoutMs: number;
  readonly failAfter: number;
  readonly recoverAfter: number;
  /** For ping: its target, source, port and mark. */
  readonly arguments: readonly string[];
}

export interface BfdOrder extends SessionSettings {
  readonly kind: "bfd";
  readonly id: string;
  readonly local: string;
  readonly peer: string;
}

export interface GroupOrder {
  readonly kind: "group";
  readonly id: string;
  readonly need: "any" | "all" | number;
  readonly of: readonly string[];
  readonly downDelayMs: number;
  readonly upDelayMs: number;
}

export type WatchOrder =
  | ProbeOrder
  | BfdOrder
  | GroupOrder
  | { readonly kind: "interface"; readonly id: string; readonly port: string }
  | { readonly kind: "route"; readonly id: string; readonly to: string };

/** A virtual router on a port of this device. It uses its own port with its own hardware address. */
export interface VirtualOrder extends VirtualSettings {
  readonly port: string;
  /** How long the prefix of the port's address is. */
  readonly length: number;
  readonly own: string;
  /** An unused address of that port, which identifies the port. */
  readonly ownAddress: string;
  readonly priority: number;
  /** Those of one name are Active together. */
  readonly sync?: string;
  readonly track: readonly { readonly watch?: string; readonly port?: string; readonly lower: number }[];
}

/** A tunnel whose underlay this device is: its interface has carrier while this port is up. */
export interface TunnelOrder {
  readonly port: string;
  /** 0: it is up whatever its underlay does. */
  readonly keepaliveMs: number;
  readonly failAfter: number;
  /** For ping: the far end, and where outer packets leave from. */
  readonly arguments: readonly string[];
}

/** Default gateways of a host, the preferred one first. */
export interface HostGatewaysOrder {
  /** Whether it stays with the gateway that it moved to. */
  readonly keepsTo: boolean;
  readonly gateways: readonly {
    readonly port: string;
    /** As in `WatchedRoute`. */
    readonly words: string;
    readonly probe: Omit<ProbeOrder, "kind" | "id">;
  }[];
}

/** Packets that are sent at a rate; what answers sends each back as it came. */
export interface FlowOrder {
  readonly flow: string;
  readonly number: number;
  readonly source: string | null;
  readonly to: string;
  readonly port: number;
  /** Packets a second. */
  readonly rate: number;
  /** Bytes for stamps of gateways. */
  readonly gateways: number;
  /** Whether each packet has its own source port, like new connections. */
  readonly fresh: boolean;
}

export interface EchoOrder {
  readonly address: string;
  readonly port: number;
}

/** All that the agent of one namespace does. Ports are called as the kernel calls them. */
export interface Orders {
  readonly ports: readonly string[];
  readonly watches: readonly WatchOrder[];
  readonly routes: readonly WatchedRoute[];
  readonly virtuals: readonly VirtualOrder[];
  readonly tunnels: readonly TunnelOrder[];
  readonly hostGateways: readonly HostGatewaysOrder[];
  readonly flows: readonly FlowOrder[];
  readonly echoes: readonly EchoOrder[];
}

/** Commands to a running agent, one line of JSON each. */
export type Word =
  /** Fails a watch, or returns it to its own observation. */
  | { readonly say: "force"; readonly watch: string; readonly down: boolean }
  /** Virtual routers of these ports, or of all, step back with an announcement. */
  | { readonly say: "shut"; readonly ports: readonly string[] | null }
  | { readonly say: "die" }
  /** Fails a tunnel's interface, or returns it to its underlay; by the port that gives it carrier. */
  | { readonly say: "cut"; readonly port: string; readonly cut: boolean }
  | { readonly say: "begin" }
  /** Stops sending; packets in flight are still answered and received. */
  | { readonly say: "halt" }
  | { readonly say: "end" };

export interface SentPackets {
  readonly flow: string;
  /** When each was sent, in milliseconds since 1970. */
  readonly sentMs: readonly number[];
  /** For each: null without an answer, else the positions of the gateways that stamped it. */
  readonly stamps: readonly (readonly number[] | null)[];
}

/** What an agent tells, a line of JSON each. */
export type AgentMessage =
  | { readonly tell: "ready" }
  /** Whether every watch has been looked at, and every session agreed on its times. */
  | { readonly tell: "settled"; readonly settled: boolean; readonly up: Readonly<Record<string, boolean>> }
  /** Virtual routers have stepped back and said so. */
  | { readonly tell: "silent" }
  | { readonly tell: "watch"; readonly watch: string; readonly up: boolean; readonly atMs: number }
  | {
      readonly tell: "virtual";
      readonly port: string;
      readonly id: number;
      readonly active: boolean;
      readonly atMs: number;
    }
  | { readonly tell: "end"; readonly latestMs: number; readonly flows: readonly SentPackets[] };

/** The first port of flows: each has its own, so that a packet identifies its flow. */
export const FIRST_FLOW_PORT = 20_000;
export const MAX_FLOWS = 10_000;
/** An answer that takes longer than this is none. */
export const ANSWER_MS = 1000;
/** In front of the stamps: the flow's number and the packet's. */
export const STAMPS_AT = 8;
/** A keepalive is answered sooner than this, or not at all; a process more on a busy machine takes some time. */
export const KEEPALIVE_MS = 120;
