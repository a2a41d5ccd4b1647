import { containsAddress, formatAddress } from "../../address/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { routeEdit } from "../context.ts";

/** A next hop that no host on its link owns: the route is installed, and packets are lost (rules 4.7 and 6.4). */
export const nextHopSilent: Check = {
  code: "next-hop-silent",
  title: "Next hop does not respond",
  consequence: "lost",
  severity: "error",
  ofOwnRoutes: true,
  run: (context) =>
    context.written.flatMap((written) => {
      if (written.state !== "in-use" && written.state !== "standby") return [];
      const [hop] = written.hops;
      if (!hop?.address || context.neighbourOf(hop).contact !== "nobody") return [];
      const { network } = context;
      const subnet = context
        .attachmentsOf(written.device.index)
        .find((a) => a.interface === hop.out && hop.address && containsAddress(a.prefix, hop.address));
      const owners = context
        .onLinkOf(hop.out)
        .filter(
          (a) =>
            subnet !== undefined &&
            a.interface !== hop.out &&
            network.devices[a.device].role !== "host" &&
            containsAddress(subnet.prefix, a.address),
        );
      const fixes =
        owners.length === 1 && written.route.via
          ? [
              routeEdit(
                written,
                { ...written.route, via: formatAddress(owners[0].address) },
                `Use ${network.devices[owners[0].device].label} as the next hop of ${describeRoute(written.route)}`,
              ),
            ]
          : [];
      return [
        {
          device: written.device.id,
          subject: describeRoute(written.route),
          text: `On ${written.device.id}, no host has the address ${formatAddress(hop.address)} on the subnet of ${network.interfaces.names[hop.out]}. It is the next hop of ${describeRoute(written.route)}: the route is active, and packets are lost.`,
          evidence: [context.routeEvidence(written)],
          fixes,
        },
      ];
    }),
};
