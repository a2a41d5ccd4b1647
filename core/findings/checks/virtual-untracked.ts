import type { Track } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import type { Context } from "../context.ts";
import { pathEvidence } from "../finding.ts";
import { grouped } from "../grouped.ts";
import { type UntrackedExit, untrackedExits } from "../untracked.ts";
import { deviceId, virtualChange, virtualName, virtualSubject } from "../virtual.ts";

/** An Active virtual router that does not notice the loss of its only way out: nothing that it tracks goes down (rule 14.6). */
export const virtualUntracked: Check = {
  code: "virtual-untracked",
  title: "A virtual router does not track its uplink",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    uplinksOf(context).flatMap((kept) => {
      const [
        {
          standing: { active },
          out,
          failed,
        },
      ] = kept;
      const others = kept.slice(1).map(({ standing }) => standing.active);
      const flows = kept.flatMap((one) => one.flows);
      const { interfaces, plan, watches } = context.network;
      const device = deviceId(context.network, active.interface);
      const name = interfaces.names[out];
      const tooHigh = Math.max(...kept.map(({ standing, needed }) => standing.active.priority - needed + 1));
      const lower = Math.min(254, Math.ceil(tooHigh / 10) * 10);
      const routes = plan.devices[interfaces.device[out]].routes;
      const own = watches.filter((record) => record.device === interfaces.device[out]);
      // What the routes out are tied to notices more than the interface does.
      const tied = routes.flatMap((route) =>
        route.watch && (route.out === name || !route.out) ? [route.watch] : [],
      );
      const tracks: Track[] = [
        { interface: name, lower },
        ...[...new Set(tied)]
          .filter((id) => own.some(({ watch }) => watch.id === id))
          .map((watch) => ({ watch, lower })),
      ];
      return [
        {
          device,
          subject: `${virtualSubject(context, active)} ${name}`,
          text: `The ${virtualName(context, active)}${others.map(({ family }) => `, and that of IPv${family},`).join("")} tracks no object that goes down with ${failed}. It stays Active and loses ${flows.map(({ flow }) => flow.id).join(", ")}, although the Backup could carry it.`,
          evidence: flows.map(({ flow }) => pathEvidence(flow.id, [failed])),
          fixes: tracks.map((track) => ({
            label: `Track ${track.watch === undefined ? name : `the watch ${track.watch}`} on ${device}, lowering by ${lower}`,
            changes: [
              virtualChange(
                context,
                active,
                (router) => ({ ...router, track: [...router.track, track] }),
                others,
              ),
            ],
          })),
        },
      ];
    }),
};

/** Untracked uplinks. Virtual routers of both families on one interface form one entry, since they are set up alike. */
function uplinksOf(context: Context): UntrackedExit[][] {
  const untracked = untrackedExits(context).filter(
    ({ standing: { active }, lowered }) => !active.owner && lowered >= active.priority,
  );
  return [...grouped(untracked, ({ standing, out }) => `${standing.active.interface} ${out}`).values()];
}
