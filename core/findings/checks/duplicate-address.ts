import { type Address, containsAddress, formatAddress } from "../../address/index.ts";
import { destinationOf, interfaceName, sourceCodes } from "../../network/index.ts";
import { nextHopsOf } from "../../routes/index.ts";
import { type Duplicate, duplicatesOf, walkPacket } from "../../walk/index.ts";
import type { Check, Report } from "../check.ts";
import type { Context } from "../context.ts";

/** One address on two interfaces: it is undefined which of them answers. */
export const duplicateAddress: Check = {
  code: "duplicate-address",
  title: "An address is assigned twice",
  consequence: "lost",
  severity: "error",
  run: (context) =>
    duplicatesOf(context.network).flatMap((duplicate): Report[] => {
      const { address, interfaces, on } = duplicate;
      const { network } = context;
      const [a, b] = interfaces.map((i) => interfaceName(network, i));
      const where = on === "apart" ? firstReachingBoth(context, duplicate) : null;
      if (on === "apart" && where === null) return [];
      const text = {
        link: `${formatAddress(address)} is assigned to ${a} and to ${b} on the same link. Which of them answers is not known.`,
        device: `${formatAddress(address)} is assigned to ${a} and to ${b}, two interfaces of one device.`,
        apart: `${formatAddress(address)} is assigned to ${a} and to ${b}, and ${where} has routes to both. Which of them it reaches depends on the route in use.`,
      }[on];
      const report: Report = {
        device: network.devices[network.interfaces.device[interfaces[1]]].id,
        subject: formatAddress(address),
        text,
        evidence: [a, b].map((name) => ({ kind: "interface" as const, interface: name })),
      };
      return [on === "apart" ? { ...report, severity: "warning" } : report];
    }),
};

/** The first device whose routes, active or not, reach the address at two places; null if there is none. */
function firstReachingBoth(context: Context, { address, interfaces: ports }: Duplicate): string | null {
  const { network, healthy } = context;
  const { interfaces, candidates } = network;
  const owners = ports.map((i) => interfaces.device[i]);
  for (const device of network.devices) {
    if (owners.includes(device.index) || device.role === "internet") continue;
    const reached = new Set<number>();
    const tables = healthy.tablesOf(device.index);
    for (let c = device.firstCandidate; c < device.endCandidate; c++) {
      const to = destinationOf(network, c);
      const source = candidates.source[c];
      if (to.length === 0 || source === sourceCodes.local || !containsAddress(to, address)) continue;
      for (const hop of nextHopsOf(network, tables, c)) {
        const question = {
          device: device.index,
          vrf: interfaces.vrf[hop.out],
          ...asked(address),
          pinned: hop,
        };
        for (const { result, hops } of walkPacket(healthy, question))
          if (result === "delivered") reached.add(hops[hops.length - 1].device);
      }
    }
    if (owners.every((owner) => reached.has(owner))) return device.id;
  }
  return null;
}

const asked = (destination: Address) => ({
  source: null,
  destination,
  protocol: "icmp" as const,
  port: null,
});
