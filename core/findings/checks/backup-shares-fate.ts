import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import type { Context, Written } from "../context.ts";
import { pairsOf } from "../pairs.ts";
import { reachFrom } from "../reach.ts";

/**
 * A backup that leaves by the same interface, link or next device as its primary. A host's gateways may share a link;
 * a next device is shared only where another way round it exists.
 */
export const backupSharesFate: Check = {
  code: "backup-shares-fate",
  title: "Backup fails together with its primary",
  consequence: "on-failure",
  severity: "warning",
  ofOwnRoutes: true,
  run: (context) =>
    pairsOf(context).flatMap(({ primary, backup }) => {
      const shared = sharedBy(context, primary, backup);
      if (!shared) return [];
      return [
        {
          device: primary.device.id,
          subject: describeRoute(backup.route),
          text: `On ${primary.device.id} the backup ${describeRoute(backup.route)} shares ${shared} with its primary ${describeRoute(primary.route)}: if it fails, both are lost.`,
          evidence: [context.routeEvidence(primary), context.routeEvidence(backup)],
        },
      ];
    }),
};

function sharedBy(context: Context, primary: Written, backup: Written): string | null {
  const [a] = primary.hops;
  const [b] = backup.hops;
  if (!a || !b) return null;
  const { interfaces, devices, links } = context.network;
  if (a.out === b.out) {
    return primary.device.profile.deadGatewayMs ? null : `the interface ${interfaces.names[a.out]}`;
  }
  const link = interfaces.link[a.out];
  if (link >= 0 && link === interfaces.link[b.out] && !primary.device.profile.deadGatewayMs) {
    return `the link ${links.ids[link] ?? interfaces.names[a.out]}`;
  }
  const under = underneath(context, a.out, b.out);
  if (under) return under;
  const next = context.nextDevice(primary);
  const same = next >= 0 && next === context.nextDevice(backup);
  return same && hasOtherWay(context, primary, next) ? `the device ${devices[next].id}` : null;
}

/** What the links of two interfaces share without being the same link: an underlay or a shared risk (rule 16.3). */
function underneath({ network }: Context, one: number, other: number): string | null {
  const { interfaces, links, fates, plan } = network;
  const [a, b] = [interfaces.link[one], interfaces.link[other]];
  if (a < 0 || b < 0) return null;
  for (const [under, riders] of links.riders)
    if (riders.includes(a) && riders.includes(b)) return `the underlying link ${links.ids[under]}`;
  const risk = fates
    .slice(0, plan.risks.length)
    .find(({ elements }) => takesDown(network, elements, a) && takesDown(network, elements, b));
  return risk ? `the risk ${risk.label}` : null;
}

/** Whether one of the elements takes the link down, directly or through its underlay. */
function takesDown({ links }: Context["network"], elements: readonly number[], link: number): boolean {
  return elements.some((element) => element === link || (links.riders.get(element)?.includes(link) ?? false));
}

/** Whether what a route leads to can be reached, over whatever links there are, without a device. */
function hasOtherWay(context: Context, { device, to }: Written, without: number): boolean {
  const { devices } = context.network;
  const family = to.address.family;
  const reach = reachFrom(context, device.index, { family, without });
  if (to.length > 0) {
    return context.subnets.within(to).some((a) => a.device !== device.index && reach.has(a.device));
  }
  // A default leads out: to the internet where the plan shows it, else to a provider or a cloud network.
  const outside = ["internet", "provider", "cloud"].find((role) => devices.some((d) => d.role === role));
  return devices.some((d) => d.role === outside && reach.has(d.index));
}
