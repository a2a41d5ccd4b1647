import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { routeEdit } from "../context.ts";

/** A static route to a network that the device is attached to: it hides until the interface goes down. */
export const staticOverConnected: Check = {
  code: "static-over-connected",
  title: "A route covers an attached network",
  consequence: "astray",
  severity: "warning",
  ofOwnRoutes: true,
  run: (context) =>
    context.written.flatMap((written) => {
      if (written.table !== null || written.route.enabled === false) return [];
      const vrf = context.network.candidates.table[written.candidate];
      const attached = context.subnets
        .at(written.to)
        .find(
          (a) => a.device === written.device.index && context.network.interfaces.vrf[a.interface] === vrf,
        );
      if (!attached) return [];
      return [
        {
          device: written.device.id,
          subject: describeRoute(written.route),
          text: `${written.device.id} is attached to ${written.route.to} on ${context.network.interfaces.names[attached.interface]}. The route ${describeRoute(written.route)} is active only when that interface is down.`,
          evidence: [context.routeEvidence(written)],
          fixes: [
            routeEdit(written, null, `Remove ${describeRoute(written.route)} from ${written.device.label}`),
          ],
        },
      ];
    }),
};
