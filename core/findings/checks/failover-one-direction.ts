import { formatElement } from "../../network/index.ts";
import { describeRoute } from "../../plan/index.ts";
import { dropText } from "../../words/index.ts";
import type { Check } from "../check.ts";
import { takeoversOf } from "../takeovers.ts";

/** The way out moves to the backup while replies keep to the dead path, or are refused on the other one. */
export const failoverOneDirection: Check = {
  code: "failover-one-direction",
  title: "Only one direction moves to the backup",
  consequence: "on-failure",
  severity: "error",
  run: (context) =>
    takeoversOf(context).flatMap(({ primary, backup, asked, failed, trip }) => {
      const { reply } = trip.worst;
      const drop = reply?.drop;
      if (trip.verdict !== "one-way" || !reply || !drop) return [];
      if (
        !["link-dead", "neighbour-silent", "host-not-listening", "no-state", "policy-denied"].includes(
          drop.code,
        )
      )
        return [];
      const ref = formatElement(context.network, failed);
      return [
        {
          device: context.network.devices[drop.device].id,
          subject: `${asked.flow.id} over ${describeRoute(backup.route)} of ${primary.device.id}`,
          text: `When ${ref} fails, only the way out of ${asked.flow.id} moves to the backup. Of the reply: ${dropText(context.settle([failed]).world.state, reply, drop)}.`,
          evidence: [{ kind: "path" as const, flow: asked.flow.id, failed: [ref] }],
        },
      ];
    }),
};
