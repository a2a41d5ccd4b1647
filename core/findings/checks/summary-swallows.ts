import { containsPrefix, formatAddress, formatPrefix, samePrefix } from "../../address/index.ts";
import type { Attachment } from "../../network/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { addRoute, type Context } from "../context.ts";

/** A summary that swallows a network lying elsewhere: it is missed, or reached the long way round. */
export const summarySwallows: Check = {
  code: "summary-swallows",
  title: "A summary swallows a network that lies elsewhere",
  consequence: "astray",
  severity: "warning",
  run: (context) =>
    context.written.flatMap((written) => {
      if (!context.isSpecific(written)) return [];
      const seen = new Set<string>();
      let reach: Map<number, Reach> | null = null;
      return context.attachments.flatMap((network) => {
        if (
          network.device === written.device.index ||
          !containsPrefix(written.to, network.prefix) ||
          samePrefix(written.to, network.prefix)
        )
          return [];
        const walk = context.walkFrom(written.device.index, network.address);
        if (walk.hops[0]?.candidate !== written.candidate || seen.has(formatPrefix(network.prefix)))
          return [];
        reach ??= distances(context, written.device.index);
        const shortest = reach.get(network.device);
        const missed = walk.result !== "delivered";
        if (shortest === undefined || (!missed && walk.hops.length - 1 <= shortest.hops)) return [];
        seen.add(formatPrefix(network.prefix));
        const via = shortest.first;
        const route = via && { to: formatPrefix(network.prefix), via: formatAddress(via.address) };
        return [
          {
            severity: missed ? ("error" as const) : undefined,
            device: written.device.id,
            subject: `${describeRoute(written.route)} and ${formatPrefix(network.prefix)}`,
            text: `On ${written.device.id} the summary ${describeRoute(written.route)} swallows ${formatPrefix(network.prefix)}, which lies at ${context.network.devices[network.device].id}: ${missed ? "packets for it do not arrive" : `packets for it go over ${walk.hops.length - 1} hops where ${shortest.hops} would do`}.`,
            evidence: [
              context.routeEvidence(written),
              { kind: "range" as const, device: written.device.id, prefix: formatPrefix(network.prefix) },
            ],
            fixes: route
              ? [
                  {
                    label: `Add the more specific ${describeRoute(route)} on ${written.device.label}`,
                    changes: [addRoute(written.device.id, route)],
                  },
                ]
              : [],
          },
        ];
      });
    }),
};

interface Reach {
  hops: number;
  /** The neighbour's address by which the way starts. */
  first: Attachment | null;
}

/** How many links away every device is over devices that forward, and by which neighbour. */
function distances(context: Context, from: number): Map<number, Reach> {
  const { network } = context;
  const reach = new Map<number, Reach>([[from, { hops: 0, first: null }]]);
  const open = [from];
  for (let d = open.shift(); d !== undefined; d = open.shift()) {
    if (d !== from && ["host", "internet", "provider"].includes(network.devices[d].role)) continue;
    const own = context.attachments.filter((a) => a.device === d);
    const here = reach.get(d) as Reach;
    for (const a of context.attachments) {
      if (reach.has(a.device)) continue;
      const shared = own.some(
        (o) =>
          network.interfaces.link[o.interface] >= 0 &&
          network.interfaces.link[o.interface] === network.interfaces.link[a.interface] &&
          o.address.family === a.address.family,
      );
      if (!shared) continue;
      reach.set(a.device, { hops: here.hops + 1, first: here.first ?? a });
      open.push(a.device);
    }
  }
  return reach;
}
