import { commonBits, containsAddress, formatAddress, formatPrefix } from "../../address/index.ts";
import { reservedBy } from "../../network/index.ts";
import type { Check } from "../check.ts";

/** Somebody uses an address that the cloud keeps for itself at the start of a subnet (rule 8). */
export const reservedAddress: Check = {
  code: "reserved-address",
  title: "An address is reserved",
  consequence: "lost",
  severity: "error",
  run: (context) =>
    context.network.devices.flatMap((cloud) => {
      if (cloud.role !== "cloud") return [];
      const reserved = reservedBy(context.deviceOf(cloud));
      const subnets = context.attachmentsOf(cloud.index);
      return subnets.flatMap((subnet) => {
        return context
          .onLinkOf(subnet.interface)
          .filter((a) => {
            if (a.device === cloud.index) return false;
            if (
              !containsAddress(subnet.prefix, a.address) ||
              context.network.devices[a.device].role === "internet"
            )
              return false;
            // How far into the subnet the address lies; only the last word can differ for so small a number.
            const near = commonBits(a.address, subnet.prefix.address) >= (a.address.family === 4 ? 0 : 96);
            const last =
              a.address.family === 4
                ? a.address.w0 - subnet.prefix.address.w0
                : a.address.w3 - subnet.prefix.address.w3;
            return near && last <= reserved;
          })
          .map((a) => {
            const name = `${context.network.devices[a.device].id}/${context.network.interfaces.names[a.interface]}`;
            return {
              device: context.network.devices[a.device].id,
              subject: formatAddress(a.address),
              text: `${name} uses ${formatAddress(a.address)}, one of the first ${reserved} addresses of ${formatPrefix(subnet.prefix)}, which ${cloud.id} reserves.`,
              evidence: [{ kind: "interface" as const, interface: name }],
            };
          });
      });
    }),
};
