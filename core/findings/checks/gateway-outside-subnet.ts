import { containsAddress, formatAddress, isIpv6LinkLocal, parseAddress } from "../../address/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { routeEdit } from "../context.ts";

/** A host's gateway that is in none of its subnets. */
export const gatewayOutsideSubnet: Check = {
  code: "gateway-outside-subnet",
  title: "A gateway is outside the subnet",
  consequence: "lost",
  severity: "error",
  ofOwnRoutes: true,
  run: (context) =>
    context.written.flatMap((written) => {
      const via = written.route.via ? parseAddress(written.route.via) : null;
      if (written.device.role !== "host" || !via || isIpv6LinkLocal(via) || written.route.onLink) return [];
      const own = context.attachmentsOf(written.device.index).filter((a) => a.address.family === via.family);
      if (own.some((a) => containsAddress(a.prefix, via))) return [];
      const { network } = context;
      const gateways = context.attachments.filter(
        (a) =>
          network.devices[a.device].role !== "host" &&
          own.some(
            (o) =>
              network.interfaces.link[o.interface] >= 0 &&
              network.interfaces.link[o.interface] === network.interfaces.link[a.interface] &&
              containsAddress(o.prefix, a.address),
          ),
      );
      const fixes =
        gateways.length === 1
          ? [
              routeEdit(
                written,
                { ...written.route, via: formatAddress(gateways[0].address) },
                `Use ${formatAddress(gateways[0].address)} as the gateway of ${written.device.label}`,
              ),
            ]
          : [];
      return [
        {
          device: written.device.id,
          subject: describeRoute(written.route),
          text: `The gateway ${written.route.via} of ${written.device.id} is outside all of its subnets, so it cannot be reached.`,
          evidence: [context.routeEvidence(written)],
          fixes,
        },
      ];
    }),
};
