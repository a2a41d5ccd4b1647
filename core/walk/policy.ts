import { containsAddress, type Prefix } from "../address/index.ts";
import type { DeviceRecord, PolicyRecord, PolicyRuleRecord } from "../network/index.ts";
import type { DropCode, Packet, PolicyDecision } from "./packet.ts";

type Zone = string | null;

/**
 * Whether the policy lets a new packet from one zone to another: the first rule that matches decides, then the order
 * of trust, then the default (rule 6.2).
 */
function policyDecision(policy: PolicyRecord, [from, to]: Zones, packet: Packet): PolicyDecision {
  const place = policy.rules.findIndex((r) => ruleMatches(r, from, to, packet));
  if (place >= 0) return { allows: policy.rules[place].allow, by: { kind: "rule", place } };
  if (isMoreTrusted(policy, from, to)) return { allows: true, by: { kind: "trust" } };
  const within = from === to;
  const { verdict, ofProfile } = within ? policy.withinZone : policy.betweenZones;
  return { allows: verdict === "allow", by: { kind: "default", within, ofProfile } };
}

function isMoreTrusted({ trust }: PolicyRecord, from: Zone, to: Zone): boolean {
  const [here, there] = [from, to].map((zone) => (zone === null ? undefined : trust.get(zone)));
  return here !== undefined && there !== undefined && here < there;
}

function ruleMatches(rule: PolicyRuleRecord, from: Zone, to: Zone, packet: Packet): boolean {
  if (rule.from && !(from !== null && rule.from.has(from))) return false;
  if (rule.to && !(to !== null && rule.to.has(to))) return false;
  if (rule.protocol && rule.protocol !== packet.protocol) return false;
  if (rule.firstPort > 0) {
    if (packet.port === null || packet.port < rule.firstPort || packet.port > rule.lastPort) return false;
  }
  const inAny = (list: readonly Prefix[], address: Packet["source"]) =>
    list.length === 0 || list.some((prefix) => containsAddress(prefix, address));
  return inAny(rule.source, packet.source) && inAny(rule.destination, packet.destination);
}

/** The zone that a packet comes from and the one that it goes to; null for none. */
export type Zones = [string | null, string | null];

/** The code under which a policy refuses a packet, or null where it passes, and what decided it unless state did. */
export interface Ruling {
  readonly denied: DropCode | null;
  readonly decision?: PolicyDecision;
}

/** A policy's ruling on a packet (rules 6.2 and 6.6). `passed` says whether a reply's flow passed the device on its
 * forward path; null for other packets. */
export function rulingOn(
  record: DeviceRecord,
  policy: PolicyRecord,
  zones: Zones,
  packet: Packet,
  passed: boolean | null,
): Ruling {
  if (passed !== null && record.profile.stateful) {
    if (passed) return { denied: null };
    // Without state a reply is as good as new over UDP; over TCP and ICMP nothing else begins so.
    if (packet.protocol !== "udp") return { denied: "no-state" };
  }
  const decision = policyDecision(policy, zones, packet);
  return { denied: decision.allows ? null : "policy-denied", decision };
}
