import { mediumCodes } from "../../network/index.ts";
import type { Check } from "../check.ts";
import { deviceId, virtualName, virtualStates, virtualSubject } from "../virtual.ts";

/** A group on a link that can part without anybody losing carrier: then each part has its own Active (rule 14.5). */
export const virtualPartsSilently: Check = {
  code: "virtual-parts-silently",
  title: "A virtual router group can split undetected",
  consequence: "on-failure",
  severity: "advice",
  run: (context) =>
    virtualStates(context).flatMap(({ group, active }) => {
      const { links } = context.network;
      if (group.link >= links.planned || links.medium[group.link] !== mediumCodes.circuit) return [];
      return [
        {
          device: deviceId(context.network, active.interface),
          subject: virtualSubject(context, active),
          text: `The ${virtualName(context, active)} and its Backups hear each other over the circuit ${links.ids[group.link]}: if it fails, no interface loses carrier, each becomes Active, and both answer for the address.`,
          evidence: [],
        },
      ];
    }),
};
