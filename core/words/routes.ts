import { formatAddress, formatPrefix } from "../address/index.ts";
import {
  actionCodes,
  destinationOf,
  type Network,
  type State,
  sourceCodes,
  viaOf,
} from "../network/index.ts";
import { chainOf, type DeviceTables, type ReasonCode, reasonCodes } from "../routes/index.ts";
import { downText } from "./interfaces.ts";

/** "172.20.0.0/16 via 172.20.0.2 out core". */
export function routeText(network: Network, c: number): string {
  const { candidates, interfaces, devices } = network;
  const parts = [formatPrefix(destinationOf(network, c))];
  const via = viaOf(network, c);
  if (via) parts.push(`via ${formatAddress(via)}`);
  if (candidates.out[c] >= 0) parts.push(`out ${interfaces.names[candidates.out[c]]}`);
  if (candidates.action[c] === actionCodes.drop) parts.push("discarded");
  if (candidates.action[c] === actionCodes.reject) parts.push("rejected");
  if (candidates.action[c] === actionCodes.vrf) {
    parts.push(`to VRF ${devices[candidates.device[c]].vrfs[candidates.toVrf[c]]}`);
  }
  return parts.join(" ");
}

/** Where a candidate came from: connected, local, static, or the protocol. */
export function sourceText(network: Network, c: number): string {
  const { candidates } = network;
  if (candidates.protocol[c] >= 0) return candidates.protocols[candidates.protocol[c]];
  const code = candidates.source[c];
  return Object.entries(sourceCodes).find(([, value]) => value === code)?.[0] ?? "static";
}

/** The reason for a candidate's state, as a code and a sentence; null without a reason. */
export function reasonFor(
  tables: DeviceTables,
  state: State,
  c: number,
): { code: ReasonCode; text: string } | null {
  const at = c - tables.device.firstCandidate;
  const code = reasonCodes[tables.reason[at]];
  return code === "" ? null : { code, text: reasonText(tables, state, c, code) };
}

/** Why a candidate stands where it does. One case a code: a table, longer than a screen because there are that many. */
function reasonText(tables: DeviceTables, state: State, c: number, code: ReasonCode): string {
  const { network } = state;
  const { candidates, interfaces } = network;
  const at = c - tables.device.firstCandidate;
  const winner = tables.detail[at];
  const via = viaOf(network, c);
  const hop = via ? formatAddress(via) : "";
  const out = candidates.out[c] >= 0 ? interfaces.names[candidates.out[c]] : "";
  const distance = (x: number) => candidates.distance[x];
  switch (code) {
    case "":
      return "";
    case "disabled":
      return "the route is disabled";
    case "forwarding-off":
      return `IPv${candidates.family[c]} forwarding is off on ${tables.device.id}`;
    case "next-hop-own-address":
      return candidates.fault[c]
        ? `the next hop ${hop} is an address of ${tables.device.id} itself`
        : `the next hop ${hop} is a virtual address that ${tables.device.id} currently owns`;
    case "next-hop-network-address":
      return `the next hop ${hop} is the address of its subnet, not of a neighbour`;
    case "next-hop-broadcast-address":
      return `the next hop ${hop} is the broadcast address of its subnet`;
    case "next-hop-not-on-interface":
      return `the next hop ${hop} is on no subnet of ${out}`;
    case "link-local-without-interface":
      return `the link-local next hop ${hop} needs an outgoing interface`;
    case "interface-next-hop-refused":
      return `this device rejects routes that name only ${out}; set a next hop`;
    case "interface-required":
      return "this device accepts only routes with an outgoing interface";
    case "second-default-refused":
      return "this device rejects a second default route of the same distance on another interface";
    case "distance-too-great":
      return `the distance ${candidates.distance[c]} is greater than ${tables.device.profile.maxDistance}, and this device never uses such a route`;
    case "no-gateway-offered":
      return `no gateway is assigned on ${out}`;
    case "interface-down":
      return downText(state, candidates.out[c]);
    case "watch-down": {
      const record = network.watches[candidates.watch[c]];
      return `the watch ${record.watch.id} is down`;
    }
    case "neighbour-lost":
      return `the neighbor ${hop} no longer responds`;
    case "gateway-dead":
      return `the gateway ${hop} no longer responds`;
    case "next-hop-unresolved":
      return unresolvedText(state, c, hop);
    case "next-hop-circular":
      return `the next hop ${hop} resolves only through itself: ${chainText(tables, state, c)}`;
    case "next-hop-chain-too-deep":
      return `the next hop ${hop} resolves through more than 16 routes: ${chainText(tables, state, c)}`;
    case "next-hop-discarded":
      return `the next hop ${hop} resolves through a route that discards or leaves this VRF: ${chainText(tables, state, c)}`;
    case "beaten-on-distance":
      return `distance ${distance(c)} vs ${distance(winner)}`;
    case "beaten-on-metric":
      return `metric ${candidates.metric[c]} vs ${candidates.metric[winner]}`;
    case "beaten-by-source":
      return `a ${sourceText(network, winner)} route of the same distance is preferred`;
    case "equal-cost-limit":
      return `equal to the active routes, but this device uses at most ${tables.device.profile.equalCost} equal-cost routes`;
    case "equal-cost-other-interface":
      return `equal to the active route, but it leaves by another interface than ${interfaces.names[candidates.out[winner]]}`;
    case "gateway-order-uncertain":
      return "two gateways are equal; the one that this device uses first is not determined";
    case "last-gateway":
      return `no gateway responds, including ${hop}`;
  }
}

/** Where the next hop's own subnet is attached but down, that is the reason; else nothing leads there. */
function unresolvedText(state: State, c: number, hop: string): string {
  const { candidates, groups } = state.network;
  for (let k = candidates.coverStart[c]; k < candidates.coverStart[c + 1]; k++) {
    const group = candidates.cover[k];
    for (let m = groups.start[group]; m < groups.start[group + 1]; m++) {
      const attached = candidates.source[m] === sourceCodes.connected;
      if (attached && !state.interfaceUp[candidates.out[m]]) return downText(state, candidates.out[m]);
    }
  }
  return `no usable route leads to the next hop ${hop}`;
}

/** The routes that a next hop was looked up through, as a sentence's tail. */
function chainText(tables: DeviceTables, state: State, c: number): string {
  const chain = chainOf(state.network, tables, c);
  return chain.map((route) => routeText(state.network, route)).join(", then ") || "no route";
}
