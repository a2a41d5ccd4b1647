import type { Watch } from "./watch.ts";

/**
 * The words for the keys of a plan, for sentences and lists: an item reads "transmit interval 300 ms" and not
 * "minTxMs 300". A key that is not listed is its own word.
 */
const fieldWords: Readonly<Record<string, string>> = {
  accept: "accepts packets to its address",
  active: "active member",
  addInterfaceMetric: "interface metric added to routes",
  advertMs: "advertisement interval",
  announces: "announced prefixes",
  at: "exit",
  atMs: "at",
  backAfterMs: "restored after",
  betweenZones: "between zones",
  bootMs: "boot time",
  carrierDelayMs: "carrier delay",
  carrierLoss: "routes without carrier",
  carriers: "expected gateways",
  deadGatewayMs: "dead gateway detection",
  destNat: "destination translation",
  decrements: "decrements the hop limit",
  delayMs: "delay",
  downDelayMs: "down delay",
  equalCost: "maximum equal-cost routes",
  equalCostOneInterface: "equal cost on one interface only",
  errorsFrom: "source of ICMP errors (IPv4)",
  errorsFromIpv6: "source of ICMP errors (IPv6)",
  failAfter: "down after",
  fail: "fails",
  gatewayFrom: "gateway assigned by",
  handedOutDistance: "distance of assigned default routes",
  hardware: "MAC address",
  heartbeats: "heartbeat links",
  helloMs: "hello interval",
  interfaceNextHop: "route with interface only",
  interfaceRequired: "interface required in routes",
  intervalMs: "interval",
  ipv4: "IPv4",
  ipv6: "IPv6",
  keepaliveMs: "keepalive interval",
  lacp: "LACP",
  lostAfterMs: "withdrawn after",
  lower: "lowers priority by",
  maxOutageMs: "maximum outage",
  mbps: "Mbit/s",
  midStream: "established traffic without session",
  minRxMs: "receive interval",
  minTxMs: "transmit interval",
  minUp: "minimum members up",
  missed: "missed hellos until takeover",
  monitor: "monitors",
  maxDistance: "greatest distance used",
  neverUp: "BFD session that was never up",
  of: "members",
  onLink: "next hop on link",
  outline: "outlined",
  over: "rides on",
  policyDestination: "policy sees the destination",
  policyTables: "policy tables",
  preemptDelayMs: "preempt delay",
  proxyArp: "proxy ARP",
  sessionTimeoutMs: "session timeout",
  rate: "packets per second",
  recoverAfter: "up after",
  replyBy: "replies are sent",
  reserved: "reserved addresses",
  resolve: "next hop resolves through",
  restore: "restored",
  returnPath: "return-path check",
  returnPathDefault: "default route satisfies the return-path check",
  returnPathTables: "return-path check uses",
  sameZone: "within a zone",
  neighbourAgeMs: "time to forget silent neighbors",
  selfRecursiveTunnel: "tunnel routed through itself",
  secondDefault: "second default route",
  shut: "shut down",
  sourceNat: "source translation",
  staticDistance: "distance of static routes",
  survive: "must survive failures",
  symmetric: "return path equals forward path",
  sync: "sync group",
  syncStates: "session state synchronized",
  target: "target",
  through: "must pass",
  timeoutMs: "timeout",
  toVrf: "lookup in VRF",
  track: "tracks",
  underlay: "tunnel",
  upDelayMs: "up delay",
  viaPort: "new port",
  viaFrom: "next hop assigned on",
  virtual: "virtual router",
  vlan: "VLAN",
  vrf: "VRF",
  watch: "watch",
  withinZone: "within a zone",
};

export const fieldWord = (key: string): string => fieldWords[key] ?? key;

/** A configured time with its unit: "300 ms", "1.5 s", "2 min", "0 s". */
export function durationText(ms: number): string {
  if (ms === 0) return "0 s";
  if (ms % 60_000 === 0) return `${ms / 60_000} min`;
  return ms < 1000 || ms % 100 !== 0 ? `${ms} ms` : `${ms / 1000} s`;
}

/** The value of a key with its unit. */
export function fieldValue(key: string, value: unknown): string {
  return key.endsWith("Ms") && typeof value === "number" ? durationText(value) : String(value);
}

/** A watch in a line: "BFD session to 172.20.255.9 on wan1, 300 ms × 3". */
export function watchPhrase(watch: Watch): string {
  switch (watch.kind) {
    case "probe": {
      const pinned = [watch.out && `on ${watch.out}`, watch.via && `via ${watch.via}`]
        .filter(Boolean)
        .join(" ");
      return `probe of ${watch.target}${pinned ? ` ${pinned}` : ""}, every ${durationText(watch.intervalMs)}`;
    }
    case "bfd":
      return `BFD session to ${watch.peer} on ${watch.interface}, ${durationText(watch.minRxMs)} × ${watch.multiplier}`;
    case "interface":
      return `state of ${watch.interface}`;
    case "route":
      return `active route to ${watch.to}${watch.vrf ? ` in VRF ${watch.vrf}` : ""}`;
    case "group":
      return `${watch.need} of ${watch.of.join(", ")}`;
  }
}
