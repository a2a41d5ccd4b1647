import { containsAddress, formatAddress } from "../../address/index.ts";
import type { Check } from "../check.ts";
import { deviceId, virtualName, virtualSubject } from "../virtual.ts";

/** A virtual address that no subnet of its interface holds: no neighbour finds it there (rule 14.6). */
export const virtualOutsideSubnet: Check = {
  code: "virtual-outside-subnet",
  title: "Virtual address is outside its subnet",
  consequence: "inactive",
  severity: "error",
  run: (context) =>
    context.network.virtuals.flatMap((record) => {
      const i = record.interface;
      const subnets = context.attachments.filter((attachment) => attachment.interface === i);
      const strays = record.addresses.filter(
        (address) => !subnets.some(({ prefix }) => containsAddress(prefix, address)),
      );
      if (strays.length === 0) return [];
      const device = deviceId(context.network, i);
      const name = context.network.interfaces.names[i];
      return [
        {
          device,
          subject: virtualSubject(context, record),
          text: `The ${virtualName(context, record)} has ${strays.map(formatAddress).join(", ")}, which is outside every subnet of ${name}.`,
          evidence: [{ kind: "interface" as const, interface: `${device}/${name}` }],
        },
      ];
    }),
};
