import type { TokenRole } from "../../../../exchange/layout.ts";

/** What people call the roles of tokens. */
export const roleNames: Readonly<Record<TokenRole, string>> = {
  to: "destination",
  mask: "mask",
  via: "next hop",
  out: "interface",
  distance: "distance",
  metric: "metric",
  pair: "distance/metric",
  word: "code or word",
  vrf: "VRF",
  table: "table",
  address: "own address",
  hardware: "MAC address",
  ignored: "ignored",
};

export const allRoles = Object.keys(roleNames) as TokenRole[];
