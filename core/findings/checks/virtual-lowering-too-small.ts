import type { Check } from "../check.ts";
import { pathEvidence } from "../finding.ts";
import { untrackedExits } from "../untracked.ts";
import { deviceId, virtualChange, virtualName, virtualSubject } from "../virtual.ts";

/** A priority decrement too small to drop below the Backup: the tracked element fails and nothing moves (rule 14.6). */
export const virtualLoweringTooSmall: Check = {
  code: "virtual-lowering-too-small",
  title: "Lowered priority stays above the Backup's",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    untrackedExits(context).flatMap(
      ({ standing: { active, backup }, out, failed, flows, lowered, needed }) => {
        if (active.owner || lowered >= active.priority || lowered < needed) return [];
        const { interfaces } = context.network;
        const device = deviceId(context.network, active.interface);
        const missing = lowered - needed + 1;
        return [
          {
            device,
            subject: `${virtualSubject(context, active)} ${interfaces.names[out]}`,
            text: `With ${failed} down the ${virtualName(context, active)} falls from priority ${active.priority} to ${lowered}, still not below ${needed} of the ${virtualName(context, backup)}: it stays Active and loses ${flows.map(({ flow }) => flow.id).join(", ")}.`,
            evidence: flows.map(({ flow }) => pathEvidence(flow.id, [failed])),
            fixes: [
              {
                label: `Lower by ${missing} more on ${device}`,
                changes: [
                  virtualChange(context, active, (router) => ({
                    ...router,
                    track: router.track.map((track) => ({
                      ...track,
                      lower: Math.min(254, track.lower + missing),
                    })),
                  })),
                ],
              },
            ],
          },
        ];
      },
    ),
};
