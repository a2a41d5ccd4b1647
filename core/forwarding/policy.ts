import { containsAddress, type Prefix } from "../address/index.ts";
import type { PolicyRecord, PolicyRuleRecord } from "../network/index.ts";
import type { Packet } from "./packet.ts";

type Zone = string | null;

/**
 * Whether the policy lets a new packet from one zone to another: the first rule that matches decides, then the order
 * of trust, then the default.
 */
export function policyAllows(policy: PolicyRecord, from: Zone, to: Zone, packet: Packet): boolean {
  const rule = policy.rules.find((r) => ruleMatches(r, from, to, packet));
  if (rule) return rule.allow;
  if (isMoreTrusted(policy, from, to)) return true;
  return (from === to ? policy.withinZone : policy.betweenZones) === "allow";
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
