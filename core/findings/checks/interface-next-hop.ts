import { formatAddress } from "../../address/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { routeEdit } from "../context.ts";

/** A route that names an interface alone on a shared segment: every destination must answer there (rule 4.2). */
export const interfaceNextHop: Check = {
  code: "interface-next-hop",
  title: "A route names only an interface",
  consequence: "lost",
  severity: "warning",
  ofOwnRoutes: true,
  run: (context) =>
    context.written.flatMap((written) => {
      const { route, device, candidate } = written;
      const out = context.network.candidates.out[candidate];
      if (
        route.via ||
        route.viaFrom ||
        out < 0 ||
        !context.forwards(written) ||
        context.network.interfaces.pointToPoint[out]
      )
        return [];
      if (route.enabled === false) return [];
      const routers = context
        .onLinkOf(out)
        .filter(
          (a) =>
            a.interface !== out &&
            a.address.family === written.to.address.family &&
            context.network.devices[a.device].role !== "host",
        );
      const fixes =
        routers.length === 1
          ? [
              routeEdit(
                written,
                { ...route, via: formatAddress(routers[0].address) },
                `Set the next hop of ${describeRoute(route)} to ${formatAddress(routers[0].address)}`,
              ),
            ]
          : [];
      const refused = written.reason === "interface-next-hop-refused";
      return [
        {
          severity: refused ? ("error" as const) : undefined,
          device: device.id,
          subject: describeRoute(route),
          text: `On ${device.id} the route ${describeRoute(route)} names an interface on a shared segment without a next hop: ${refused ? "this device rejects it" : "only destinations on that segment are reached"}.`,
          evidence: [context.routeEvidence(written)],
          fixes,
        },
      ];
    }),
};
