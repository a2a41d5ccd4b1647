import { formatPrefix, isLinkLocal, PrefixList } from "../../address/index.ts";
import type { Attachment } from "../../network/index.ts";
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
      const own = context
        .attachmentsOf(device.index)
        .filter((a) => !isLinkLocal(a.address) && !interfaces.loopback[a.interface]);
      const places = new Map(own.map((a, i) => [a, i]));
      const list = new PrefixList(own, (a) => a.prefix);
      return own.flatMap((a, i) =>
        overlapping(list, a).flatMap((b) => {
          if (
            (places.get(b) as number) <= i ||
            a.interface === b.interface ||
            interfaces.vrf[a.interface] !== interfaces.vrf[b.interface]
          )
            return [];
          const [x, y] = [interfaces.names[a.interface], interfaces.names[b.interface]];
          return [
            {
              device: device.id,
              subject: `${x} and ${y}`,
              text: `On ${device.id} the subnets of ${x} (${formatPrefix(a.prefix)}) and ${y} (${formatPrefix(b.prefix)}) overlap. Addresses in both are reached on one of them only.`,
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

/** Those whose subnet overlaps that of one, in their order. */
function overlapping(list: PrefixList<Attachment>, { prefix }: Attachment): Attachment[] {
  const found = new Set([...list.holding(prefix), ...list.within(prefix)]);
  return found.size > 1 ? list.all.filter((a) => found.has(a)) : [...found];
}
