import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";

/** A next hop that resolves only through itself (rule 4.3). */
export const nextHopCircular: Check = {
  code: "next-hop-circular",
  title: "A next hop resolves through itself",
  consequence: "inactive",
  severity: "error",
  run: (context) =>
    context.written
      .filter((written) => written.reason === "next-hop-circular")
      .map((written) => ({
        device: written.device.id,
        subject: describeRoute(written.route),
        text: `On ${written.device.id} the next hop of ${describeRoute(written.route)} resolves only through itself.`,
        evidence: [context.routeEvidence(written)],
      })),
};
