import { formatAddress, formatPrefix, samePrefix } from "../../address/index.ts";
import { type Attachment, findNeighbour } from "../../network/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Walk } from "../../walk/index.ts";
import type { Check, Report } from "../check.ts";
import { addRoute, type Context, type Written } from "../context.ts";
import { type Reach, reachFrom } from "../reach.ts";

/** A summary that swallows a network behind another neighbor: traffic to it is lost or takes a detour, and another
 * neighbor is nearer. If the summary's own neighbor is the right one, a fault behind it is not caused by the summary.
 * */
export const summarySwallows: Check = {
  code: "summary-swallows",
  title: "A summary covers a network located elsewhere",
  consequence: "astray",
  severity: "warning",
  ofOwnRoutes: true,
  run: (context) =>
    context.written.flatMap((written) => {
      if (!context.isSpecific(written)) return [];
      const family = written.to.address.family;
      const next = context.nextDevice(written);
      const seen = new Set<string>();
      let here: Map<number, Reach> | null = null;
      let there: Map<number, Reach> | null = null;
      return context.subnets.within(written.to).flatMap((network): Report[] => {
        const inside = network.device !== written.device.index && !samePrefix(written.to, network.prefix);
        if (!inside || seen.has(formatPrefix(network.prefix))) return [];
        here ??= reachFrom(context, written.device.index, { family });
        there ??= next < 0 ? new Map() : reachFrom(context, next, { family });
        const shortest = here.get(network.device);
        const behindNext = (there.get(network.device)?.hops ?? Number.POSITIVE_INFINITY) + 1;
        if (!shortest?.first || behindNext <= shortest.hops) return [];
        const walk = context.walkFrom(written.device.index, network.address);
        const missed = walk.result !== "delivered";
        if (walk.hops[0]?.candidate !== written.candidate) return [];
        if (!missed && walk.hops.length - 1 <= shortest.hops) return [];
        if (!missed && passes(context, walk, network)) return [];
        seen.add(formatPrefix(network.prefix));
        return [swallowed(context, written, network, shortest, missed ? null : walk.hops.length - 1)];
      });
    }),
};

/** Whether a packet comes to a network by another router that is attached to it: the summary leads there as well as any. */
function passes(context: Context, { hops }: Walk, { prefix, device }: Attachment): boolean {
  return hops
    .slice(1)
    .some(
      (hop) =>
        hop.device !== device &&
        context.attachmentsOf(hop.device).some((attachment) => samePrefix(attachment.prefix, prefix)),
    );
}

function swallowed(
  context: Context,
  written: Written,
  network: Attachment,
  shortest: Reach,
  hops: number | null,
): Report {
  const { device } = written;
  const to = formatPrefix(network.prefix);
  const route = shortest.first && { to, via: formatAddress(shortest.first.address) };
  const leads = route && leadsElsewhere(context, written, shortest.first as Attachment);
  return {
    ...(hops === null ? { severity: "error" as const } : {}),
    device: device.id,
    subject: `${describeRoute(written.route)} and ${to}`,
    text: `On ${device.id} the summary ${describeRoute(written.route)} covers ${to}, which is located at ${context.network.devices[network.device].id}: ${hops === null ? "packets to it are lost" : `packets to it take ${hops} hops instead of ${shortest.hops}`}.`,
    evidence: [context.routeEvidence(written), { kind: "range", device: device.id, prefix: to }],
    fixes: leads
      ? [
          {
            label: `Add the more specific ${describeRoute(route)} on ${device.label}`,
            changes: [addRoute(device.id, route)],
          },
        ]
      : [],
  };
}

/** Whether a neighbour is another than the one to which a route leads: a fix by the same one would change nothing. */
function leadsElsewhere(context: Context, written: Written, neighbour: Attachment): boolean {
  return written.hops.every(
    (hop) =>
      findNeighbour(context.healthy.state, hop.out, hop.address, hop.peer).interface !== neighbour.interface,
  );
}
