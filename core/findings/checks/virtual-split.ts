import { sameAddress } from "../../address/index.ts";
import type { Walk } from "../../walk/index.ts";
import type { Check } from "../check.ts";
import type { Context } from "../context.ts";
import { pathEvidence } from "../finding.ts";
import { deviceId, type VirtualState, virtualChange, virtualName, virtualStates } from "../virtual.ts";

/** The sync group that members are put in that have none. */
const SYNC = "together";

/** Two groups whose Active stand on different devices, though a flow needs both on one: its replies find no state (rule 14.6). */
export const virtualSplit: Check = {
  code: "virtual-split",
  title: "A flow needs two virtual routers on one device",
  consequence: "lost",
  severity: "error",
  run: (context) => {
    const standings = virtualStates(context);
    const { network } = context;
    const { interfaces, virtuals } = network;
    const deviceOf = (v: number) => interfaces.device[virtuals[v].interface];
    return context.flows.flatMap((asked) => {
      const { outbound, reply } = asked.trip.worst;
      if (reply?.drop?.code !== "no-state") return [];
      const there = passedBy(context, standings, outbound);
      const back = passedBy(context, standings, reply);
      if (!there || !back || there === back) return [];
      const needed = deviceOf(there.active.index);
      const other = back.group.members.find((v) => deviceOf(v) === needed);
      if (other === undefined || deviceOf(back.active.index) === needed) return [];
      const record = virtuals[other];
      const priority = Math.min(254, back.active.priority + 10);
      return [
        {
          device: deviceId(network, record.interface),
          subject: asked.flow.id,
          text: `Flow ${asked.flow.id} uses the ${virtualName(context, there.active)}, but its replies use the ${virtualName(context, back.active)} on another device, which has no session state.`,
          evidence: [pathEvidence(asked.flow.id)],
          fixes: back.active.owner
            ? []
            : [
                {
                  label: `Make ${deviceId(network, record.interface)} Active for both`,
                  changes: [virtualChange(context, record, (router) => ({ ...router, priority }))],
                },
                {
                  label: `Make ${deviceId(network, record.interface)} Active for both, in one sync group on each device`,
                  changes: [...there.group.members, ...back.group.members].map((v) =>
                    virtualChange(context, virtuals[v], (router) => ({
                      ...router,
                      ...(v === other ? { priority } : {}),
                      sync: router.sync ?? SYNC,
                    })),
                  ),
                },
              ],
        },
      ];
    });
  },
};

/** The group by whose virtual address a walk goes first; null for none. */
function passedBy(context: Context, standings: readonly VirtualState[], walk: Walk): VirtualState | null {
  for (const { nextHop, out } of walk.hops) {
    if (!nextHop) continue;
    const link = context.network.interfaces.link[out];
    const found = standings.find(
      ({ group, active }) => group.link === link && active.addresses.some((a) => sameAddress(a, nextHop)),
    );
    if (found) return found;
  }
  return null;
}
