import { formatPrefix, type Prefix, samePrefix, subtract } from "../../address/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { addRoute, type Context, type Written } from "../context.ts";

/** A summary wider than what exists behind it, without a discard route: the rest of it goes in circles. */
export const summaryWithoutDiscard: Check = {
  code: "summary-without-discard",
  title: "A summary lacks its discard route",
  consequence: "tidy",
  severity: "warning",
  run: (context) =>
    context.written.flatMap((written) => {
      if (!context.isSpecific(written)) return [];
      const spare = unownedPart(context, written);
      if (!spare) return [];
      if (context.endFrom(written.device.index, spare.address) !== "looped") return [];
      const walk = context.walkFrom(written.device.index, spare.address);
      const next = context.nextDevice(written);
      const first = walk.hops[0];
      const circle = walk.drop?.circle ?? [];
      if (first?.candidate !== written.candidate || next < 0) return [];
      if (!circle.includes(written.device.index) || !circle.includes(next)) return [];
      const behind = context.network.devices[next];
      const route = { to: formatPrefix(written.to), discard: "drop" as const };
      return [
        {
          device: behind.id,
          subject: describeRoute(written.route),
          text: `${written.device.id} sends all of ${formatPrefix(written.to)} to ${behind.id}, but parts of it do not exist there: packets to ${formatPrefix(spare)} loop. Add a discard route for the summary on ${behind.id}.`,
          evidence: [
            context.routeEvidence(written),
            { kind: "range" as const, device: written.device.id, prefix: formatPrefix(spare) },
          ],
          fixes: [
            {
              label: `Discard the rest of ${route.to} on ${behind.label}`,
              changes: [addRoute(behind.id, route)],
            },
          ],
        },
      ];
    }),
};

/** A part of a route's destination that nothing is attached to and no longer route on the device leads to. */
function unownedPart(context: Context, written: Written): Prefix | null {
  if (context.subnets.at(written.to).length > 0) return null;
  const owned = context.subnets.within(written.to).map((a) => a.prefix);
  const longer = context.routes
    .prefixesOf(written.device.index)
    .within(written.to)
    .filter((w) => w.state === "in-use" && !samePrefix(w.to, written.to))
    .map((w) => w.to);
  return subtract(written.to, [...owned, ...longer])[0] ?? null;
}
