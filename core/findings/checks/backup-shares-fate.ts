import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { pairsOf } from "../pairs.ts";

/** A backup that leaves by the same interface, link or next device as its primary. A host's gateways may share a link. */
export const backupSharesFate: Check = {
  code: "backup-shares-fate",
  title: "A backup fails with its primary",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    pairsOf(context).flatMap(({ primary, backup }) => {
      const [a] = primary.hops;
      const [b] = backup.hops;
      if (!a || !b) return [];
      const { interfaces, devices } = context.network;
      const next = context.nextDevice(primary);
      const shared =
        a.out === b.out && !primary.device.profile.deadGatewayMs
          ? `the interface ${interfaces.names[a.out]}`
          : next >= 0 && next === context.nextDevice(backup)
            ? `the device ${devices[next].id}`
            : null;
      if (!shared) return [];
      return [
        {
          device: primary.device.id,
          subject: describeRoute(backup.route),
          text: `On ${primary.device.id} the backup ${describeRoute(backup.route)} shares ${shared} with its primary ${describeRoute(primary.route)}: when that fails, both are gone.`,
          evidence: [context.routeEvidence(primary), context.routeEvidence(backup)],
        },
      ];
    }),
};
