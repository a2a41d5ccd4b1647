import { faults } from "../network/index.ts";

export const routeStates = ["in-use", "standby", "unusable", "disabled"] as const;
export type RouteState = (typeof routeStates)[number];
export const stateCodes = { "in-use": 0, standby: 1, unusable: 2, disabled: 3 } as const;

/** Why a candidate ended in its state, by rule: 4 for unusable, 5.1 for standby. */
export const reasonCodes = [
  "",
  ...faults.slice(1),
  "interface-down",
  "watch-down",
  "neighbour-lost",
  "gateway-dead",
  "next-hop-unresolved",
  "next-hop-circular",
  "next-hop-chain-too-deep",
  "next-hop-discarded",
  "beaten-on-distance",
  "beaten-on-metric",
  "beaten-by-source",
  "equal-cost-limit",
  "equal-cost-other-interface",
  "gateway-order-uncertain",
  "last-gateway",
] as const;
export type ReasonCode = (typeof reasonCodes)[number];
const reasonNumber = new Map(reasonCodes.map((code, i) => [code, i]));
export const reasonOf = (code: ReasonCode): number => reasonNumber.get(code) as number;
