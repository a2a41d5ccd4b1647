import { containsAddress, parseAddress } from "../../address/index.ts";
import { describeRoute, type StaticRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { routeEdit, type Written } from "../context.ts";

/** A hard-coded next hop on an interface whose gateway is handed out, and may change (rule 7.2). */
export const staleGateway: Check = {
  code: "stale-gateway",
  title: "A next hop may go stale",
  consequence: "on-failure",
  severity: "warning",
  ofOwnRoutes: true,
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
              context
                .attachmentsOf(written.device.index)
                .some(
                  (a) =>
                    context.network.interfaces.names[a.interface] === entry.name &&
                    containsAddress(a.prefix, via),
                )),
        );
      if (!port) return [];
      return [
        {
          device: written.device.id,
          subject: describeRoute(written.route),
          text: `On ${written.device.id} the gateway of ${port.name} is assigned by ${port.gatewayFrom} and may change, but the next hop of ${describeRoute(written.route)} is fixed.`,
          evidence: [context.routeEvidence(written)],
          fixes: [followTheGateway(written, port.name)],
        },
      ];
    }),
};

/** The same route by whatever gateway is handed out (rule 4.9). */
function followTheGateway(written: Written, port: string) {
  const { via: _via, out: _out, onLink: _onLink, resolve: _resolve, ...rest } = written.route;
  const after: StaticRoute = { ...rest, viaFrom: port };
  return routeEdit(
    written,
    after,
    `Make ${describeRoute(written.route)} of ${written.device.label} follow the gateway assigned on ${port}`,
  );
}
