import { formatAddress } from "../../address/index.ts";
import type { Check } from "../check.ts";
import { deviceId, virtualChange, virtualName, virtualStates, virtualSubject } from "../virtual.ts";

/** Virtual routers of one group with different addresses: after a failover some addresses do not move (rule 14.6). */
export const virtualMembersDiffer: Check = {
  code: "virtual-members-differ",
  title: "Virtual routers of one group have different addresses",
  consequence: "on-failure",
  severity: "error",
  run: (context) =>
    virtualStates(context).flatMap(({ group, active }) =>
      group.members.flatMap((v) => {
        const other = context.network.virtuals[v];
        const texts = (record: typeof active) => record.addresses.map(formatAddress).sort();
        const [mine, theirs] = [texts(active), texts(other)];
        if (v === active.index || mine.join() === theirs.join()) return [];
        const device = deviceId(context.network, other.interface);
        return [
          {
            device,
            subject: virtualSubject(context, other),
            text: `The ${virtualName(context, active)} has ${mine.join(", ")}, the ${virtualName(context, other)} has ${theirs.join(", ")}: after a takeover, traffic to the missing addresses is lost.`,
            evidence: [
              {
                kind: "interface" as const,
                interface: `${device}/${context.network.interfaces.names[other.interface]}`,
              },
            ],
            fixes: [
              {
                label: `Give ${device} the addresses ${mine.join(", ")}`,
                changes: [
                  virtualChange(context, other, (router) => ({
                    ...router,
                    addresses: [
                      ...router.addresses.filter((text) => text.includes(":") !== (other.family === 6)),
                      ...mine,
                    ],
                  })),
                ],
              },
            ],
          },
        ];
      }),
    ),
};
