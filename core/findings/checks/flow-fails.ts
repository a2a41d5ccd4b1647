import { dropText } from "../../words/index.ts";
import type { Check } from "../check.ts";
import { flowRemedies } from "../flow-remedies.ts";

/** A flow that does not arrive, with no failures. */
export const flowFails: Check = {
  code: "flow-fails",
  title: "A flow does not arrive",
  consequence: "lost",
  severity: "error",
  run: (context) =>
    context.flows.flatMap(({ flow, question, trip }) => {
      const { outbound } = trip.worst;
      const { drop } = outbound;
      // A policy that refuses traffic has a finding of its own. plain-ok
      if (trip.verdict !== "fails" || !drop || drop.code === "policy-denied") return [];
      return [
        {
          device: context.network.devices[drop.device].id,
          subject: flow.id,
          text: `Flow ${flow.id} does not arrive: ${dropText(context.healthy.state, outbound, drop)}.`,
          evidence: [{ kind: "path" as const, flow: flow.id, failed: [] }],
          fixes: () => flowRemedies(context, question),
        },
      ];
    }),
};
