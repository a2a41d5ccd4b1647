import { formatAddress } from "../../address/index.ts";
import { formatElement, linkElement } from "../../network/index.ts";
import { describeRoute, type Probe } from "../../plan/index.ts";
import { probeSending } from "../../settle/index.ts";
import { walkBothWays } from "../../walk/index.ts";
import type { Check } from "../check.ts";
import { pairsOf } from "../pairs.ts";

/** A probe whose packets can leave by the backup: it recovers the moment it fails, and flaps (rule 9.5). */
export const watchThroughBackup: Check = {
  code: "watch-through-backup",
  title: "A watch can recover through the backup",
  consequence: "on-failure",
  severity: "error",
  ofOwnRoutes: true,
  run: (context) =>
    pairsOf(context).flatMap(({ primary, backup }) => {
      const { network } = context;
      const watch = network.candidates.watch[primary.candidate];
      const record = network.watches[watch];
      if (watch < 0 || record.watch.kind !== "probe") return [];
      const probe: Probe = record.watch;
      const sending = probeSending(context.healthy, record);
      if (!sending) return [];
      const trip = walkBothWays(context.healthy, sending);
      const links = trip.worst.outbound.hops
        .map((hop) => (hop.out >= 0 ? network.interfaces.link[hop.out] : -1))
        .filter((link) => link >= 0 && link < network.links.planned);
      const flaps = links.find((link) => context.settle([linkElement(network, link)]).flapping.length > 0);
      if (flaps === undefined) return [];
      const [hop] = primary.hops;
      const via = hop?.address ? formatAddress(hop.address) : undefined;
      const after: Probe = { ...probe, out: network.interfaces.names[hop.out], ...(via ? { via } : {}) };
      return [
        {
          device: primary.device.id,
          subject: probe.id,
          text: `On ${primary.device.id} the probes of ${probe.id} can leave by the backup ${describeRoute(backup.route)}. If ${formatElement(network, linkElement(network, flaps))} fails, the watch goes down, recovers over the backup and flaps.`,
          evidence: [
            { kind: "watch" as const, watch: `${primary.device.id}/${probe.id}` },
            context.routeEvidence(primary),
          ],
          fixes: [
            {
              label: `Pin the probes of ${probe.id} to ${after.out}`,
              changes: [
                {
                  in: "device" as const,
                  device: primary.device.id,
                  collection: "watches" as const,
                  before: probe,
                  after,
                },
              ],
            },
          ],
        },
      ];
    }),
};
