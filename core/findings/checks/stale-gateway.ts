import { containsAddress, parseAddress } from "../../address/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";

/** A hard-coded next hop on an interface whose gateway is handed out, and may change (rule 7.2). */
export const staleGateway: Check = {
  code: "stale-gateway",
  title: "A next hop may go stale",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    context.written.flatMap((written) => {
      const via = written.route.via ? parseAddress(written.route.via) : null;
      if (!via) return [];
      const port = context
        .deviceOf(written.device)
        .interfaces.find(
          (entry) =>
            entry.gatewayFrom &&
            (written.route.out === entry.name ||
              context.attachments.some(
                (a) =>
                  a.device === written.device.index &&
                  context.network.interfaces.names[a.interface] === entry.name &&
                  containsAddress(a.prefix, via),
              )),
        );
      if (!port) return [];
      return [
        {
          device: written.device.id,
          subject: describeRoute(written.route),
          text: `On ${written.device.id} the gateway of ${port.name} is handed out by ${port.gatewayFrom} and may change; ${describeRoute(written.route)} names ${written.route.via} for good.`,
          evidence: [context.routeEvidence(written)],
        },
      ];
    }),
};
