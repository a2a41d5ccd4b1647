import type { Check } from "../check.ts";
import { deviceId, virtualChange, virtualName, virtualStates, virtualSubject } from "../virtual.ts";

/** A virtual router tracks an element, but no Backup preempts, so the lower priority moves nothing (rule 14.3). */
export const virtualTrackingWithoutPreempt: Check = {
  code: "virtual-tracking-without-preempt",
  title: "Tracking has no effect without preemption",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    virtualStates(context).flatMap(({ group, active }) => {
      const { virtuals } = context.network;
      const others = group.members.filter((v) => v !== active.index).map((v) => virtuals[v]);
      if (active.owner || active.track.length === 0 || others.some(({ preempt, owner }) => preempt || owner))
        return [];
      const device = deviceId(context.network, active.interface);
      const names = others.map((other) => virtualName(context, other));
      return [
        {
          device,
          subject: virtualSubject(context, active),
          text: `The ${virtualName(context, active)} lowers its priority when a tracked object fails, but the ${names.join(" and the ")} may not preempt, so no takeover happens.`,
          evidence: [],
          fixes: [
            {
              label: `Let ${others.map((other) => deviceId(context.network, other.interface)).join(" and ")} preempt`,
              changes: others.map((other) =>
                virtualChange(context, other, (router) => ({ ...router, preempt: true })),
              ),
            },
          ],
        },
      ];
    }),
};
