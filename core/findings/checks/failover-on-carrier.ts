import { addTo } from "../../collections/index.ts";
import { mediumCodes } from "../../network/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import type { Context } from "../context.ts";
import { bfdBothEnds } from "../fixes/bfd.ts";
import { type Pair, pairsOf } from "../pairs.ts";

/** A failover of a kernel's table that depends on carrier alone (rule 1). The profile assumes that routes out of an
 * interface without carrier are withdrawn; a kernel does that only if configured to. */
export const failoverOnCarrier: Check = {
  code: "failover-on-carrier",
  title: "A failover depends on carrier only",
  consequence: "on-failure",
  severity: "advice",
  ofOwnRoutes: true,
  run: (context) => {
    const byInterface = new Map<number, Pair[]>();
    for (const pair of pairsOf(context)) {
      const [hop] = pair.primary.hops;
      if (!hop || !isKernelTable(pair) || !carrierTells(context, hop.out)) continue;
      addTo(byInterface, hop.out, pair);
    }
    return [...byInterface].map(([out, pairs]) => {
      const [{ primary, backup }] = pairs;
      const name = context.network.interfaces.names[out];
      const more = pairs.length > 1 ? `, and ${pairs.length - 1} more like it,` : "";
      return {
        device: primary.device.id,
        subject: name,
        text: `On ${primary.device.id} the backup ${describeRoute(backup.route)}${more} takes over only because ${name} loses carrier: no watch withdraws ${describeRoute(primary.route)}. A kernel withdraws it only with ignore_routes_with_linkdown set on ${name}; otherwise the route stays active and packets are lost. Set it, or set \`carrierLoss: keep\` in the profile to see the effect.`,
        evidence: [context.routeEvidence(primary), context.routeEvidence(backup)],
        fixes: pairs.length > 1 ? [] : [bfdBothEnds(context, primary)].filter((edit) => edit !== null),
      };
    });
  },
};

/** Whether the device takes the lowest metric whatever the source, and nothing but its interface withdraws the route. */
function isKernelTable({ primary: { device, route } }: Pair): boolean {
  const { staticDistance, addInterfaceMetric, carrierLoss, deadGatewayMs } = device.profile;
  const lowestMetric = staticDistance === null && !addInterfaceMetric;
  return lowestMetric && carrierLoss === "withdraw" && !deadGatewayMs && !route.watch;
}

/** Whether an interface loses carrier with its link: only then does the failover work at all. */
function carrierTells({ network: { interfaces, links } }: Context, out: number): boolean {
  const link = interfaces.link[out];
  return link >= 0 && interfaces.tunnel[out] < 0 && links.medium[link] === mediumCodes.cable;
}
