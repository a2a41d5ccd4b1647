import { formatElement } from "../../network/index.ts";
import { describeRoute } from "../../plan/index.ts";
import { dropText } from "../../words/index.ts";
import type { Check } from "../check.ts";
import { takeoversOf } from "../takeovers.ts";

/** The path over the backup has no way back: a device on it lacks the route. */
export const backupNoWayBack: Check = {
  code: "backup-no-way-back",
  title: "A backup has no way back",
  consequence: "on-failure",
  severity: "error",
  run: (context) =>
    takeoversOf(context).flatMap(({ primary, backup, asked, failed, trip }) => {
      const { reply } = trip.worst;
      const drop = reply?.drop;
      if (trip.verdict !== "one-way" || !reply || !drop) return [];
      if (!["no-route", "discarded", "rejected", "private-at-internet", "looped"].includes(drop.code))
        return [];
      const ref = formatElement(context.network, failed);
      return [
        {
          device: context.network.devices[drop.device].id,
          subject: `${asked.flow.id} over ${describeRoute(backup.route)} of ${primary.device.id}`,
          text: `When ${ref} fails, ${primary.device.id} sends ${asked.flow.id} by its backup, and nothing comes back: ${dropText(context.settle([failed]).world.state, reply, drop)}.`,
          evidence: [
            { kind: "path" as const, flow: asked.flow.id, failed: [ref] },
            context.routeEvidence(backup),
          ],
        },
      ];
    }),
};
