import type { Check } from "../check.ts";

/** The return path takes other links than the forward path. */
export const asymmetricPath: Check = {
  code: "asymmetric-path",
  title: "Forward path and return path differ",
  consequence: "astray",
  severity: "advice",
  run: (context) =>
    context.flows
      .filter(
        ({ trip }) => trip.verdict === "works" && trip.branches.some((branch) => branch.symmetric === false),
      )
      .map(({ flow, trip }) => {
        const odd = trip.branches.find((branch) => branch.symmetric === false) ?? trip.worst;
        const names = (hops: readonly { device: number }[]) =>
          hops.map((hop) => context.network.devices[hop.device].id);
        const expected = flow.expect?.symmetric === true;
        return {
          severity: expected ? ("error" as const) : undefined,
          device: null,
          subject: flow.id,
          text: `Flow ${flow.id} takes ${names(odd.outbound.hops).join(", ")} and returns by ${names(odd.reply?.hops ?? []).join(", ")}${expected ? ". Its return path is expected to equal its forward path" : ""}.`,
          evidence: [{ kind: "path" as const, flow: flow.id, failed: [] }],
        };
      }),
};
