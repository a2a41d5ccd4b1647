import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";

const what: Record<string, string> = {
  "next-hop-own-address": "an address of the device itself",
  "next-hop-network-address": "the address of its subnet, not of a neighbour",
  "next-hop-broadcast-address": "the broadcast address of its subnet",
};

/** Own, network or broadcast address as next hop (rule 4.4). */
export const nextHopInvalid: Check = {
  code: "next-hop-invalid",
  title: "Invalid next hop",
  consequence: "inactive",
  severity: "error",
  run: (context) =>
    context.written
      .filter((written) => written.reason in what)
      .map((written) => ({
        device: written.device.id,
        subject: describeRoute(written.route),
        text: `On ${written.device.id} the next hop of ${describeRoute(written.route)} is ${what[written.reason]}.`,
        evidence: [context.routeEvidence(written)],
      })),
};
