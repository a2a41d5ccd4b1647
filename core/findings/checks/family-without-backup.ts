import { type Family, formatAddress } from "../../address/index.ts";
import { addressesOf } from "../../network/index.ts";
import { describeRoute, type StaticRoute } from "../../plan/index.ts";
import type { Check, Report } from "../check.ts";
import { addRoute, type Context, type Written } from "../context.ts";

/** A device whose default has a backup in one address family and none in the other, though the backup's line carries both. */
export const familyWithoutBackup: Check = {
  code: "family-without-backup",
  title: "A default route has a backup in one address family only",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    context.devices.flatMap((device) => {
      const defaults = context.routes
        .of(device.index)
        .filter(
          ({ to, table, route }) =>
            to.length === 0 && table === null && route.enabled !== false && !route.discard && !route.toVrf,
        );
      return ([4, 6] as const).flatMap((family) => defaultsWithoutBackup(context, defaults, family));
    }),
};

function defaultsWithoutBackup(context: Context, defaults: readonly Written[], family: Family): Report[] {
  const own = defaults.filter(({ to }) => to.address.family === family);
  const others = defaults.filter(({ to }) => to.address.family !== family);
  const vrf = own[0]?.route.vrf ?? "main";
  const alike = others.filter(({ route }) => (route.vrf ?? "main") === vrf);
  if (own.length !== 1 || alike.length < 2) return [];
  const [primary] = own;
  const used = new Set(primary.hops.map(({ out }) => out));
  const backups = alike.filter(({ hops }) => hops.length > 0 && !hops.some(({ out }) => used.has(out)));
  // Its own primary has a twin, and another line would carry it too.
  const twin = alike.some(({ hops }) => hops.some(({ out }) => used.has(out)));
  const backup = backups.find(({ hops }) => addressesOf(context.network, hops[0].out, family).length > 0);
  if (!twin || !backup) return [];
  const { interfaces, devices } = context.network;
  const { device } = primary;
  const { out } = backup.hops[0];
  const neighbours = context
    .onLinkOf(out)
    .filter(
      (a) =>
        a.interface !== out &&
        a.address.family === family &&
        devices[a.device].role !== "host" &&
        devices[a.device].forwards[family],
    );
  const route: StaticRoute | null =
    neighbours.length === 1
      ? {
          ...withoutPlace(backup.route),
          to: primary.route.to,
          via: formatAddress(neighbours[0].address),
        }
      : null;
  return [
    {
      device: device.id,
      subject: describeRoute(primary.route),
      text: `On ${device.id} the IPv${family === 4 ? 6 : 4} default has a backup by ${interfaces.names[out]}, but the IPv${family} default ${describeRoute(primary.route)} has none: if its line fails, IPv${family} is down while IPv${family === 4 ? 6 : 4} is not.`,
      evidence: [context.routeEvidence(primary), context.routeEvidence(backup)],
      fixes: route
        ? [
            {
              label: `Add the backup ${describeRoute(route)} on ${device.label}`,
              changes: [addRoute(device.id, route)],
            },
          ]
        : [],
    },
  ];
}

/** What a route of the other family says besides where it leads. */
function withoutPlace({ distance, metric, out, vrf }: StaticRoute): Omit<StaticRoute, "to"> {
  return {
    ...(distance === undefined ? {} : { distance }),
    ...(metric === undefined ? {} : { metric }),
    ...(out === undefined ? {} : { out }),
    ...(vrf === undefined ? {} : { vrf }),
  };
}
