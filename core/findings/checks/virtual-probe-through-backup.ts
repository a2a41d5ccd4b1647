import { formatElement, linkElement } from "../../network/index.ts";
import type { Watch } from "../../plan/index.ts";
import { probeSending } from "../../settle/index.ts";
import { walkBothWays } from "../../walk/index.ts";
import type { Check, Report } from "../check.ts";
import type { Context } from "../context.ts";
import { deviceId, flowsBy, type VirtualState, virtualName, virtualStates } from "../virtual.ts";

/** A tracked probe that goes round by the Backup once the own way out is gone: it stays up, and nothing moves (rule 14.6). */
export const virtualProbeThroughBackup: Check = {
  code: "virtual-probe-through-backup",
  title: "A tracked probe can succeed through the Backup",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    virtualStates(context).flatMap((standing) => {
      const outs = new Set(flowsBy(context, standing).map(({ out }) => out));
      return [...outs].flatMap((out) => keptUp(context, standing, out));
    }),
};

/** The tracked probes that stay up with the link of a way out down, because they pass another of the group. */
function keptUp(context: Context, { active, group }: VirtualState, out: number): Report[] {
  const { network } = context;
  const { interfaces, watches, virtuals, links } = network;
  const link = interfaces.link[out];
  if (out === active.interface || link < 0 || link >= links.planned) return [];
  const element = linkElement(network, link);
  const { world } = context.settle([element]);
  const others = new Set(group.members.map((v) => interfaces.device[virtuals[v].interface]));
  others.delete(interfaces.device[active.interface]);
  return active.track.flatMap(({ watch: w }) => {
    const sending = w < 0 || !watches[w].probe ? null : probeSending(world, watches[w]);
    if (!sending || !world.state.watchUp[w]) return [];
    const passes = walkBothWays(world, sending).branches.some(({ outbound }) =>
      outbound.hops.some((hop) => others.has(hop.device)),
    );
    if (!passes) return [];
    const device = deviceId(network, active.interface);
    const { watch } = watches[w];
    const name = interfaces.names[out];
    const pinned = { ...watch, out: name } as Watch;
    return [
      {
        device,
        subject: watch.id,
        text: `The ${virtualName(context, active)} tracks ${watch.id}, whose probes go by the Backup when ${formatElement(network, element)} is down. The watch stays up and no failover happens.`,
        evidence: [{ kind: "watch", watch: `${device}/${watch.id}` }],
        fixes: [
          {
            label: `Pin ${watch.id} to ${name}`,
            changes: [{ in: "device", device, collection: "watches", before: watch, after: pinned }],
          },
        ],
      },
    ];
  });
}
