import { mediumCodes } from "../../network/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { bfdBothEnds } from "../fixes/bfd.ts";
import { pairsOf } from "../pairs.ts";

/** A floating route whose primary nothing withdraws when the far side dies: the interface stays up. */
export const floatingNeverTakesOver: Check = {
  code: "floating-never-takes-over",
  title: "A backup can never take over",
  consequence: "on-failure",
  severity: "error",
  ofOwnRoutes: true,
  run: (context) =>
    pairsOf(context).flatMap(({ primary, backup }) => {
      const [hop] = primary.hops;
      if (!hop || primary.route.watch || primary.device.profile.deadGatewayMs) return [];
      const { interfaces, links, tunnels } = context.network;
      const link = interfaces.link[hop.out];
      if (link < 0) return [];
      const tunnel = interfaces.tunnel[hop.out];
      const silent =
        tunnel >= 0
          ? tunnels[tunnel].keepaliveMs === 0
          : links.medium[link] === mediumCodes.circuit || links.medium[link] === mediumCodes.switch;
      if (!silent) return [];
      return [
        {
          device: primary.device.id,
          subject: describeRoute(backup.route),
          text: `On ${primary.device.id} the backup ${describeRoute(backup.route)} can never take over when the far side of ${interfaces.names[hop.out]} dies: the interface stays up, and nothing withdraws ${describeRoute(primary.route)}.`,
          evidence: [context.routeEvidence(primary), context.routeEvidence(backup)],
          fixes: [bfdBothEnds(context, primary)].filter((edit) => edit !== null),
        },
      ];
    }),
};
