import type { Check, Report } from "../check.ts";
import { pathEvidence as path } from "../finding.ts";

/** A device that the flow must pass is bypassed. */
export const deviceBypassed: Check = {
  code: "device-bypassed",
  title: "A flow bypasses a device that it must pass",
  consequence: "astray",
  severity: "error",
  run: (context) =>
    context.flows.flatMap(({ flow, trip }): Report[] =>
      (flow.expect?.through ?? []).flatMap((id): Report[] => {
        const device = context.network.deviceIndex.get(id);
        const passed = trip.branches.every((branch) =>
          branch.outbound.hops.some((hop) => hop.device === device),
        );
        if (trip.verdict !== "works" || passed) return [];
        return [
          {
            device: id,
            subject: flow.id,
            text: `Flow ${flow.id} must pass ${id} but does not.`,
            evidence: [path(flow.id)],
          },
        ];
      }),
    ),
};
