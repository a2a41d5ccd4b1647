import type { Check } from "../check.ts";
import { deviceId, virtualChange, virtualName, virtualStates, virtualSubject } from "../virtual.ts";

/** Two virtual routers of one priority: who is Active goes by the greater address, and may swing (rule 14.6). */
export const virtualEqualPriorities: Check = {
  code: "virtual-equal-priorities",
  title: "Virtual routers of one group have equal priorities",
  consequence: "astray",
  severity: "advice",
  run: (context) =>
    virtualStates(context).flatMap(({ group, active }) => {
      const twin = group.members
        .map((v) => context.network.virtuals[v])
        .find((other) => other !== active && other.priority === active.priority && !other.owner);
      if (!twin) return [];
      const device = deviceId(context.network, twin.interface);
      const lower = Math.max(1, twin.priority - 10);
      return [
        {
          device,
          subject: virtualSubject(context, twin),
          text: `The ${virtualName(context, active)} and the ${virtualName(context, twin)} have the same priority ${active.priority}: the higher address decides which one is Active.`,
          evidence: [],
          fixes:
            lower === twin.priority
              ? []
              : [
                  {
                    label: `Give ${device} the priority ${lower}`,
                    changes: [virtualChange(context, twin, (router) => ({ ...router, priority: lower }))],
                  },
                ],
        },
      ];
    }),
};
