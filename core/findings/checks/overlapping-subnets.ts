import { formatPrefix, isLinkLocal, overlaps } from "../../address/index.ts";
import type { Check } from "../check.ts";

/** Two interfaces of one device whose subnets overlap: half of one is out of reach. */
export const overlappingSubnets: Check = {
  code: "overlapping-subnets",
  title: "Subnets overlap",
  consequence: "lost",
  severity: "error",
  run: (context) => {
    const { interfaces } = context.network;
    return context.network.devices.flatMap((device) => {
      const own = context.attachments.filter(
        (a) => a.device === device.index && !isLinkLocal(a.address) && !interfaces.loopback[a.interface],
      );
      return own.flatMap((a, i) =>
        own.slice(i + 1).flatMap((b) => {
          if (
            a.interface === b.interface ||
            interfaces.vrf[a.interface] !== interfaces.vrf[b.interface] ||
            !overlaps(a.prefix, b.prefix)
          )
            return [];
          const [x, y] = [interfaces.names[a.interface], interfaces.names[b.interface]];
          return [
            {
              device: device.id,
              subject: `${x} and ${y}`,
              text: `On ${device.id} the subnets of ${x} (${formatPrefix(a.prefix)}) and ${y} (${formatPrefix(b.prefix)}) overlap: what lies in both is looked for on one of them alone.`,
              evidence: [
                { kind: "interface" as const, interface: `${device.id}/${x}` },
                { kind: "interface" as const, interface: `${device.id}/${y}` },
              ],
            },
          ];
        }),
      );
    });
  },
};
