import type { Check } from "../check.ts";

/** A host with two default gateways that stays on the second until something makes it try the first again (rule 7.1). */
export const stickyGateways: Check = {
  code: "sticky-gateways",
  title: "A host stays on its second gateway",
  consequence: "on-failure",
  severity: "advice",
  run: (context) =>
    context.network.devices.flatMap((device) => {
      const { profile } = device;
      if (!profile.deadGatewayMs) return [];
      const defaults = context.routes
        .of(device.index)
        .filter(
          (w) => w.to.length === 0 && w.to.address.family === 4 && w.route.via && w.route.enabled !== false,
        );
      const [a, b] = defaults;
      if (!b) return [];
      const equal =
        context.network.candidates.metric[a.candidate] === context.network.candidates.metric[b.candidate];
      const sticky = profile.failback !== "at-once";
      if (!equal && !sticky) return [];
      return [
        {
          device: device.id,
          subject: "two default gateways",
          text: equal
            ? `${device.id} has two default gateways of the same metric. Their order does not decide which one it uses.`
            : `${device.id} has two default gateways and keeps the one that last worked. After a failure it stays on the second until that one fails.`,
          evidence: [context.routeEvidence(a), context.routeEvidence(b)],
        },
      ];
    }),
};
