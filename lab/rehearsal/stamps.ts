import { formatAddress } from "../../core/address/index.ts";
import type { Network } from "../../core/network/index.ts";
import type { GatewayRecord } from "../../core/walk/index.ts";
import { FIRST_FLOW_PORT, MAX_FLOWS, STAMPS_AT } from "../agent/orders.ts";
import { portName } from "../names.ts";
import { partOf } from "../parts.ts";

/** A UDP header in bytes: stamps count from its start. */
const HEADER = 8;

/** Rules that make each gateway stamp the packets it forwards, so that a returning packet names its gateways. By
 * device; a gateway's position in the list is the position of its stamp. */
export function stampsOf(network: Network, gateways: readonly GatewayRecord[]): Map<string, string> {
  const flows = `udp dport ${FIRST_FLOW_PORT}-${FIRST_FLOW_PORT + MAX_FLOWS - 1}`;
  const rules = new Map<string, string[]>();
  // A gateway with a next hop precedes one for all other packets out of its interface.
  const order = [...gateways.entries()].sort(
    ([, a], [, b]) => Number(b.via !== null) - Number(a.via !== null),
  );
  for (const [g, { interface: i, via }] of order) {
    const { id, vrfs } = network.devices[network.interfaces.device[i]];
    const device = partOf(id, vrfs[network.interfaces.vrf[i]]);
    const next = via ? `rt ${via.family === 4 ? "ip" : "ip6"} nexthop ${formatAddress(via)} ` : "";
    const stamp = `@th,${(HEADER + STAMPS_AT + g) * 8},8 set 1`;
    const rule = `oifname "${portName(network.interfaces.names[i])}" ${flows} ${next}${stamp} accept`;
    rules.set(device, [...(rules.get(device) ?? []), rule]);
  }
  return new Map(
    [...rules].map(([device, lines]) => [
      device,
      `table inet lab-stamps { chain out { type filter hook postrouting priority 200; policy accept;\n${lines.join("\n")}\n}\n}`,
    ]),
  );
}
