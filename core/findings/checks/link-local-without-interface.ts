import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";

/** An IPv6 link-local next hop without an interface (rule 4.5). */
export const linkLocalWithoutInterface: Check = {
  code: "link-local-without-interface",
  title: "A link-local next hop lacks its interface",
  consequence: "inactive",
  severity: "error",
  run: (context) =>
    context.written
      .filter((written) => written.reason === "link-local-without-interface")
      .map((written) => ({
        device: written.device.id,
        subject: describeRoute(written.route),
        text: `On ${written.device.id} the link-local next hop of ${describeRoute(written.route)} needs an outgoing interface, because link-local addresses exist on every link.`,
        evidence: [context.routeEvidence(written)],
      })),
};
