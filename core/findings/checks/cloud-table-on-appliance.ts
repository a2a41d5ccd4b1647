import { containsAddress, parseAddress } from "../../address/index.ts";
import type { Check } from "../check.ts";

/** A cloud subnet's table that diverts the appliance's own subnet to the appliance: its packets come back to it (rule 8). */
export const cloudTableOnAppliance: Check = {
  code: "cloud-table-on-appliance",
  title: "A cloud table is attached to its own appliance",
  consequence: "lost",
  severity: "error",
  run: (context) =>
    context.network.devices.flatMap((device) => {
      if (device.role !== "cloud") return [];
      const plan = context.deviceOf(device);
      return plan.policyTables.flatMap((table) =>
        (table.match.in ?? []).flatMap((name) => {
          const subnets = context
            .attachmentsOf(device.index)
            .filter((a) => context.network.interfaces.names[a.interface] === name);
          const own = table.routes.filter((route) => {
            const via = route.via ? parseAddress(route.via) : null;
            return via !== null && subnets.some((subnet) => containsAddress(subnet.prefix, via));
          });
          if (own.length === 0) return [];
          const rest = (table.match.in ?? []).filter((other) => other !== name);
          const after = { ...table, match: { ...table.match, in: rest } };
          return [
            {
              device: device.id,
              subject: `${table.name} on ${name}`,
              text: `The table ${table.name} of ${device.id} is attached to ${name}, the subnet of its next hop, appliance ${own[0].via}. Packets that the appliance forwards return to it.`,
              evidence: [{ kind: "interface" as const, interface: `${device.id}/${name}` }],
              fixes: rest.length
                ? [
                    {
                      label: `Detach ${table.name} from ${name}`,
                      changes: [
                        {
                          in: "device" as const,
                          device: device.id,
                          collection: "policyTables" as const,
                          before: table,
                          after,
                        },
                      ],
                    },
                  ]
                : [],
            },
          ];
        }),
      );
    }),
};
