import type { Check } from "../check.ts";
import { pathEvidence } from "../finding.ts";
import { unansweredTakeovers } from "../takeovers.ts";

/** The way out moves to the backup while replies keep to the dead path, or are refused on the other one. */
export const failoverOneDirection: Check = {
  code: "failover-one-direction",
  title: "Only one direction moves to the backup",
  consequence: "on-failure",
  severity: "error",
  run: (context) =>
    unansweredTakeovers(context, [
      "link-dead",
      "neighbour-silent",
      "host-not-listening",
      "no-state",
      "policy-denied",
      "policy-denied",
    ]).map(({ device, subject, failed, because, takeover }) => ({
      device,
      subject,
      text: `When ${failed} fails, only the forward path of flow ${takeover.asked.flow.id} moves to the backup. The reply is lost: ${because}.`,
      evidence: [pathEvidence(takeover.asked.flow.id, [failed])],
    })),
};
