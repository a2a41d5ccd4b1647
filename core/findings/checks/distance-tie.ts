import { formatPrefix } from "../../address/index.ts";
import { destinationOf, sourceCodes } from "../../network/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { routeEdit } from "../context.ts";

/** A static route of the same distance as a learned one: which of them a device uses is not said by the distance (rule 5.1). */
export const distanceTie: Check = {
  code: "distance-tie",
  title: "A static and a learned route have the same distance",
  consequence: "astray",
  severity: "warning",
  run: (context) => {
    const { network } = context;
    const { candidates, groups } = network;
    return context.written.flatMap((written) => {
      const { candidate, device, route } = written;
      const distance = candidates.distance[candidate];
      if (distance < 0 || route.enabled === false || written.table !== null) return [];
      const g = candidates.group[candidate];
      for (let c = groups.start[g]; c < groups.start[g + 1]; c++) {
        if (candidates.source[c] !== sourceCodes.learned || candidates.distance[c] !== distance) continue;
        const protocol = candidates.protocols[candidates.protocol[c]] ?? "learned";
        const to = formatPrefix(destinationOf(network, c));
        return [
          {
            device: device.id,
            subject: describeRoute(route),
            text: `On ${device.id} the static route ${describeRoute(route)} and the ${protocol} route to ${to} both have the distance ${distance}. Devices differ in which of them they use. Give the static route another distance.`,
            evidence: [context.routeEvidence(written)],
            fixes: [distance + 1, distance - 1]
              .filter((one) => one >= 1 && one <= Math.min(254, device.profile.maxDistance))
              .map((one) =>
                routeEdit(
                  written,
                  { ...route, distance: one },
                  `Set the distance of ${describeRoute(route)} to ${one}, ${one > distance ? "so that it is standby" : "so that it is preferred"}`,
                ),
              ),
          },
        ];
      }
      return [];
    });
  },
};
