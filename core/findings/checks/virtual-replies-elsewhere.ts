import type { Check } from "../check.ts";
import { pathEvidence } from "../finding.ts";
import { flowsBy, virtualName, virtualStates } from "../virtual.ts";

/** Replies that come to the other one of a group, and die there (rule 14.6). */
export const virtualRepliesElsewhere: Check = {
  code: "virtual-replies-elsewhere",
  title: "Replies reach the other virtual router and are dropped",
  consequence: "lost",
  severity: "error",
  run: (context) =>
    virtualStates(context).flatMap((standing) => {
      const { network } = context;
      const { virtuals, interfaces, devices } = network;
      const { active, group } = standing;
      const here = interfaces.device[active.interface];
      const there = group.members
        .map((v) => interfaces.device[virtuals[v].interface])
        .filter((d) => d !== here);
      return flowsBy(context, standing).flatMap(({ asked }) => {
        const drop = asked.trip.worst.reply?.drop;
        if (!drop || !there.includes(drop.device)) return [];
        return [
          {
            device: devices[drop.device].id,
            subject: asked.flow.id,
            text: `Flow ${asked.flow.id} leaves by the ${virtualName(context, active)}, but its replies reach ${devices[drop.device].id}, which drops them (${drop.code}).`,
            evidence: [pathEvidence(asked.flow.id)],
          },
        ];
      });
    }),
};
