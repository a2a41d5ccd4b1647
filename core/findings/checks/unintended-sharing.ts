import { describeRoute } from "../../plan/index.ts";
import type { Check, Report } from "../check.ts";
import { type Context, routeEdit, type Written } from "../context.ts";

/** Default routes of one device that share load by accident: one leaves through a management interface or into another
 * zone (rule 12.2). */
export const unintendedSharing: Check = {
  code: "unintended-sharing",
  title: "Unintended load sharing between default routes",
  consequence: "astray",
  severity: "warning",
  run: (context) => {
    const groups = new Map<number, Written[]>();
    for (const written of context.written) {
      if (written.state !== "in-use" || written.to.length > 0 || !context.forwards(written)) continue;
      if (written.device.profile.deadGatewayMs) continue;
      const group = context.network.candidates.group[written.candidate];
      groups.set(group, [...(groups.get(group) ?? []), written]);
    }
    return [...groups.values()].flatMap((sharing): Report[] => {
      const odd = oddOneOut(context, sharing);
      return odd ? [reportOf(context, odd, sharing)] : [];
    });
  },
};

interface Odd {
  readonly written: Written;
  readonly because: string;
}

/** The default route whose kind differs from the others that share the load; null if all match. */
function oddOneOut(context: Context, sharing: readonly Written[]): Odd | null {
  if (sharing.length < 2) return null;
  const { interfaces, plan } = context.network;
  const portOf = (w: Written) => {
    const out = w.hops[0]?.out ?? -1;
    return out < 0 ? null : plan.devices[w.device.index].interfaces[out - w.device.firstInterface];
  };
  const management = sharing.filter((w) => portOf(w)?.kind === "management");
  if (management.length > 0 && management.length < sharing.length) {
    return {
      written: management[0],
      because: `${portOf(management[0])?.name} is a management interface`,
    };
  }
  const zoneOf = (w: Written) => (w.hops[0] ? interfaces.zones[w.hops[0].out] : null);
  const other = sharing.find((w) => zoneOf(w) !== zoneOf(sharing[0]));
  return other
    ? {
        written: other,
        because: `it leaves into ${zoneOf(other) ?? "no zone"}, the other into ${zoneOf(sharing[0]) ?? "no zone"}`,
      }
    : null;
}

function reportOf(context: Context, { written, because }: Odd, sharing: readonly Written[]): Report {
  const { candidates } = context.network;
  const distance = candidates.distance[written.candidate];
  const metric = candidates.metric[written.candidate];
  const after =
    distance >= 0
      ? { ...written.route, distance: Math.min(255, distance + 10) }
      : { ...written.route, metric: metric + 10 };
  const others = sharing.filter((w) => w !== written).map((w) => describeRoute(w.route));
  return {
    device: written.device.id,
    subject: describeRoute(written.route),
    text: `On ${written.device.id} the default ${describeRoute(written.route)} shares the load with ${others.join(" and ")}, so part of the traffic leaves there: ${because}.`,
    evidence: sharing.map((w) => context.routeEvidence(w)),
    fixes: [
      routeEdit(
        written,
        after,
        `Make ${describeRoute(written.route)} standby, ${distance >= 0 ? `distance ${after.distance}` : `metric ${after.metric}`}`,
      ),
    ],
  };
}
