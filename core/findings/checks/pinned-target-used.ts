import { formatAddress, parseAddress, sameAddress } from "../../address/index.ts";
import type { Check } from "../check.ts";

/** A probe's target that is reached only through a pinned host route, and that a flow uses too (rule 9.6). */
export const pinnedTargetUsed: Check = {
  code: "pinned-target-used",
  title: "A probe target is also a service",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    context.network.watches.flatMap((record) => {
      const { watch, device } = record;
      const target = watch.kind === "probe" ? parseAddress(watch.target) : null;
      if (!target) return [];
      const owner = context.network.devices[device];
      const pin = context.routes
        .of(device)
        .find((w) => w.to.length === (target.family === 4 ? 32 : 128) && sameAddress(w.to.address, target));
      if (!pin) return [];
      return context.flows
        .filter(
          ({ question, trip }) =>
            sameAddress(question.destination, target) &&
            trip.branches.some((b) => b.outbound.hops.some((h) => h.device === device)),
        )
        .map(({ flow }) => ({
          device: owner.id,
          subject: `${watch.id} and ${flow.id}`,
          text: `${formatAddress(target)}, which ${owner.id} probes through a pinned host route, is also the destination of flow ${flow.id}. If that path fails, the flow fails even if another path exists.`,
          evidence: [context.routeEvidence(pin), { kind: "path" as const, flow: flow.id, failed: [] }],
        }));
    }),
};
