import type { Check } from "../check.ts";
import { pathEvidence } from "../finding.ts";
import { flowRemedies } from "../flow-remedies.ts";
import { unansweredTakeovers } from "../takeovers.ts";

/** The path over the backup has no return path: a device on it lacks the route. */
export const backupNoWayBack: Check = {
  code: "backup-no-way-back",
  title: "A backup has no return path",
  consequence: "on-failure",
  severity: "error",
  run: (context) =>
    unansweredTakeovers(context, ["no-route", "discarded", "rejected", "private-at-internet", "looped"]).map(
      ({ device, subject, failed, because, takeover }) => ({
        device,
        subject,
        text: `When ${failed} fails, ${takeover.primary.device.id} sends flow ${takeover.asked.flow.id} by its backup, but no reply returns: ${because}.`,
        evidence: [pathEvidence(takeover.asked.flow.id, [failed]), context.routeEvidence(takeover.backup)],
        fixes: () => flowRemedies(context, takeover.asked.question, [failed]),
      }),
    ),
};
