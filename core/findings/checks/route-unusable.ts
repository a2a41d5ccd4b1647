import { describeRoute } from "../../plan/index.ts";
import { asIfInService } from "../../settle/index.ts";
import { reasonFor } from "../../words/index.ts";
import type { Check } from "../check.ts";
import { reportsOf } from "../reports-of.ts";
import { bfdOneEnd } from "./bfd-one-end.ts";
import { forwardingOff } from "./forwarding-off.ts";
import { interfaceNextHop } from "./interface-next-hop.ts";
import { linkLocalWithoutInterface } from "./link-local-without-interface.ts";
import { nextHopCircular } from "./next-hop-circular.ts";
import { nextHopInvalid } from "./next-hop-invalid.ts";
import { nextHopUnresolved } from "./next-hop-unresolved.ts";
import { secondDefaultRefused } from "./second-default-refused.ts";
import { watchFlaps } from "./watch-flaps.ts";

/** Checks that name a route that cannot be used themselves. */
const ofRoutes = [
  nextHopUnresolved,
  nextHopInvalid,
  nextHopCircular,
  secondDefaultRefused,
  linkLocalWithoutInterface,
  interfaceNextHop,
];
/** Checks that name the watch for which a route cannot be used. */
const ofWatches = [bfdOneEnd, watchFlaps];

/** A route that is unusable with nothing failed and whose reason no other finding covers (rule 12.2). */
export const routeUnusable: Check = {
  code: "route-unusable",
  title: "A route is unusable",
  consequence: "inactive",
  severity: "warning",
  run: (context) => {
    const key = (device: string | null, subject: string) => `${device} ${subject}`;
    const keysOf = (checks: readonly Check[]) =>
      new Set(checks.flatMap((check) => reportsOf(context, check)).map((r) => key(r.device, r.subject)));
    const unusable = context.written.filter((w) => w.state === "unusable" && w.reason !== "forwarding-off");
    if (unusable.length === 0) return [];
    const [routes, watches, families] = [keysOf(ofRoutes), keysOf(ofWatches), keysOf([forwardingOff])];
    return unusable.flatMap((written) => {
      const { device, route, candidate } = written;
      if (routes.has(key(device.id, describeRoute(route)))) return [];
      if (route.watch && watches.has(key(device.id, route.watch))) return [];
      if (families.has(key(device.id, `IPv${written.to.address.family}`))) return [];
      const world = asIfInService(context.healthy, device.index);
      const reason = reasonFor(world.tablesOf(device.index), world.state, candidate);
      return [
        {
          device: device.id,
          subject: describeRoute(route),
          text: `On ${device.id} the route ${describeRoute(route)} is unusable: ${reason?.text ?? "its next hop cannot be reached"}.`,
          evidence: [context.routeEvidence(written)],
        },
      ];
    });
  },
};
