import { formatAddress } from "../../address/index.ts";
import { mediumCodes } from "../../network/index.ts";
import { describeRoute, type Watch } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { addWatch, type Context, routeChange, type Written } from "../context.ts";
import { pairsOf } from "../pairs.ts";

/** A floating route whose primary nothing withdraws when the far side dies: the interface stays up. */
export const floatingNeverTakesOver: Check = {
  code: "floating-never-takes-over",
  severity: "error",
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
          fixes: bfdFix(context, primary),
        },
      ];
    }),
};

/** A BFD session on both ends, on which the primary depends. */
function bfdFix(context: Context, primary: Written) {
  const [hop] = primary.hops;
  const neighbour = context.neighbourOf(hop);
  if (!hop.address || neighbour.interface < 0) return [];
  const { network } = context;
  const far = network.devices[network.interfaces.device[neighbour.interface]];
  const own = context.addressOnLink(
    primary.device.index,
    network.interfaces.link[hop.out],
    hop.address.family,
  );
  if (!own || far.role === "internet") return [];
  const session = (i: number, peer: string, taken: readonly string[]): Watch => ({
    id: freshName("bfd", taken),
    kind: "bfd",
    interface: network.interfaces.names[i],
    peer,
    minTxMs: 300,
    minRxMs: 300,
    multiplier: 3,
  });
  const here = session(
    hop.out,
    formatAddress(hop.address),
    context.deviceOf(primary.device).watches.map((w) => w.id),
  );
  const there = session(
    neighbour.interface,
    formatAddress(own.address),
    context.deviceOf(far).watches.map((w) => w.id),
  );
  return [
    {
      label: `Watch ${describeRoute(primary.route)} by BFD with ${far.label}, on both ends`,
      changes: [
        addWatch(primary.device.id, here),
        addWatch(far.id, there),
        routeChange(primary, { ...primary.route, watch: here.id }),
      ],
    },
  ];
}

export function freshName(wanted: string, taken: readonly string[]): string {
  let name = wanted;
  for (let n = 2; taken.includes(name); n++) name = `${wanted}-${n}`;
  return name;
}
