import { formatAddress } from "../../address/index.ts";
import { describeRoute, type Probe } from "../../plan/index.ts";
import { settleFromWatches } from "../../settle/index.ts";
import type { Check, Report } from "../check.ts";
import type { Context, Written } from "../context.ts";

/** A watch whose probes need the very route that it withdraws: once down, it never comes back (rule 12.2). */
export const watchNeedsItself: Check = {
  code: "watch-needs-itself",
  title: "A watch needs the route that it withdraws",
  consequence: "on-failure",
  severity: "error",
  run: (context) => {
    const { network } = context;
    const byWatch = new Map<number, Written[]>();
    for (const written of context.written) {
      const watch = network.candidates.watch[written.candidate];
      if (watch >= 0) byWatch.set(watch, [...(byWatch.get(watch) ?? []), written]);
    }
    return [...byWatch].flatMap(([watch, routes]): Report[] => {
      if (!context.healthy.state.watchUp[watch]) return [];
      const probes = probesOf(context, watch);
      if (probes.length === 0) return [];
      // Nothing has failed any more, and yet it stays down: it needs itself.
      const down = [...probes, watch];
      if (settleFromWatches(context.engine, down).world.state.watchUp[watch]) return [];
      return [reportOf(context, watch, probes, routes)];
    });
  },
};

/** The probes that a watch is, or rests on as a group. */
function probesOf(context: Context, watch: number): number[] {
  const { watch: settings, members } = context.network.watches[watch];
  if (settings.kind === "probe") return [watch];
  return members.flatMap((member) => probesOf(context, member));
}

function reportOf(
  context: Context,
  watch: number,
  probes: readonly number[],
  routes: readonly Written[],
): Report {
  const { network } = context;
  const { id } = network.watches[watch].watch;
  const [route] = routes;
  return {
    device: route.device.id,
    subject: id,
    text: `On ${route.device.id} the watch ${id} withdraws ${routes.map((w) => describeRoute(w.route)).join(", ")}, but its probes need ${routes.length > 1 ? "them" : "that route"}. Once down, it never comes up again.`,
    evidence: [
      { kind: "watch", watch: `${route.device.id}/${id}` },
      ...routes.map((w) => context.routeEvidence(w)),
    ],
    fixes: pinned(context, probes, route),
  };
}

/** The probes sent out of the route's own exit whatever the table says. */
function pinned(context: Context, probes: readonly number[], route: Written) {
  const { network } = context;
  const [hop] = route.hops;
  if (!hop) return [];
  const changes = probes.map((p) => {
    const before = network.watches[p].watch as Probe;
    const out = network.interfaces.names[hop.out];
    const after: Probe = { ...before, out, ...(hop.address ? { via: formatAddress(hop.address) } : {}) };
    return { in: "device" as const, device: route.device.id, collection: "watches" as const, before, after };
  });
  const names = probes.map((p) => network.watches[p].watch.id).join(", ");
  return [{ label: `Pin the probes of ${names} to ${network.interfaces.names[hop.out]}`, changes }];
}
