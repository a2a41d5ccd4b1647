import type { Check } from "../check.ts";

/** A stateful firewall sees only one direction of a flow and drops it as unknown traffic. */
export const asymmetricFirewall: Check = {
  code: "asymmetric-firewall",
  title: "A firewall sees only one direction of a flow",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    context.flows.flatMap(({ flow, trip }) =>
      trip.branches.slice(0, 1).flatMap(({ outbound, reply }) => {
        if (outbound.result !== "delivered" || !reply) return [];
        // A firewall is one with or without a policy in the plan.
        const stateful = (hops: readonly { device: number }[]) =>
          new Set(hops.map((hop) => hop.device).filter((d) => context.network.devices[d].profile.stateful));
        const [there, back] = [stateful(outbound.hops), stateful(reply.hops)];
        const arrives = reply.result === "delivered" || reply.drop?.code === "half-session";
        const half = [...there]
          .filter((d) => arrives && !back.has(d))
          .concat([...back].filter((d) => !there.has(d)));
        return half.map((d) => {
          const { id } = context.network.devices[d];
          const dropped =
            reply.drop?.device === d &&
            ["no-state", "policy-denied", "half-session"].includes(reply.drop.code);
          return {
            severity: dropped ? ("error" as const) : undefined,
            device: id,
            subject: flow.id,
            text: there.has(d)
              ? `The firewall ${id} sees the forward path of flow ${flow.id} but not its replies${dropped ? ", and drops all packets after the first" : ". It treats the flow as unanswered"}.`
              : `The firewall ${id} sees the replies of flow ${flow.id} but not its forward path${dropped ? ", and drops them" : ". They pass only because its policy allows new flows"}.`,
            evidence: [{ kind: "path" as const, flow: flow.id, failed: [] }],
          };
        });
      }),
    ),
};
