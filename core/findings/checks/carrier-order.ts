import { formatElement, interfaceElement } from "../../network/index.ts";
import { carriersOfTrip, walkBothWays } from "../../walk/index.ts";
import type { Check, Report } from "../check.ts";
import { pathEvidence as path } from "../finding.ts";

/** The flow is not carried in the order that is expected of it. */
export const carrierOrder: Check = {
  code: "carrier-order",
  title: "Unexpected gateway",
  consequence: "astray",
  severity: "error",
  run: (context) =>
    context.flows.flatMap(({ flow, trip, question }): Report[] => {
      const wanted = flow.expect?.carriers ?? [];
      if (wanted.length === 0) return [];
      const failed: number[] = [];
      for (const [n, id] of wanted.entries()) {
        const now = n === 0 ? trip : walkBothWays(context.settle(failed).world, question);
        const carriers = carriersOfTrip(context.gateways, now).map((g) => context.gateways[g].id);
        if (now.verdict !== "works" || carriers.find((c) => wanted.includes(c)) !== id) {
          const refs = failed.map((e) => formatElement(context.network, e));
          const instead =
            now.verdict === "works"
              ? `it is carried by ${carriers.join(", ") || "no gateway"}`
              : "it does not work";
          return [
            {
              device: null,
              subject: flow.id,
              text: `Flow ${flow.id} should be carried by ${id}${refs.length ? ` when ${refs.join(" and ")} ${refs.length > 1 ? "are" : "is"} down` : ""}; ${instead}.`,
              evidence: [path(flow.id, refs)],
            },
          ];
        }
        const gateway = context.gateways.find((g) => g.id === id);
        if (gateway) failed.push(interfaceElement(context.network, gateway.interface));
      }
      return [];
    }),
};
