import { formatAddress } from "../../address/index.ts";
import { viaOf } from "../../network/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";

/** A next hop that no usable route leads to (rule 4.3). */
export const nextHopUnresolved: Check = {
  code: "next-hop-unresolved",
  title: "A next hop does not resolve",
  consequence: "inactive",
  severity: "error",
  run: (context) =>
    context.written
      .filter(
        (written) =>
          written.reason === "next-hop-unresolved" || written.reason === "next-hop-not-on-interface",
      )
      .map((written) => {
        const via = viaOf(context.network, written.candidate);
        return {
          device: written.device.id,
          subject: describeRoute(written.route),
          text: `On ${written.device.id} the route ${describeRoute(written.route)} is unusable: no route leads to its next hop ${via ? formatAddress(via) : ""}.`,
          evidence: [context.routeEvidence(written)],
        };
      }),
};
