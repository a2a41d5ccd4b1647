import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { routeEdit } from "../context.ts";

/** A second default that the device refuses because one exists (rule 1, profile field secondDefault). */
export const secondDefaultRefused: Check = {
  code: "second-default-refused",
  title: "A second default route is rejected",
  consequence: "inactive",
  severity: "error",
  ofOwnRoutes: true,
  run: (context) =>
    context.written
      .filter((written) => written.reason === "second-default-refused")
      .map((written) => {
        const distance = context.network.candidates.distance[written.candidate];
        const after = { ...written.route, distance: Math.min(255, distance + 10) };
        return {
          device: written.device.id,
          subject: describeRoute(written.route),
          text: `${written.device.id} rejects ${describeRoute(written.route)}: another interface already has a default route of distance ${distance}.`,
          evidence: [context.routeEvidence(written)],
          fixes: [
            routeEdit(
              written,
              after,
              `Make ${describeRoute(written.route)} floating, distance ${after.distance}`,
            ),
          ],
        };
      }),
};
