import type { Check } from "../check.ts";

/** A cloud table that is not attached to any subnet, so it has no effect. */
export const cloudTableUnattached: Check = {
  code: "cloud-table-unattached",
  title: "A cloud table is attached to no subnet",
  consequence: "astray",
  severity: "warning",
  run: (context) =>
    context.network.devices.flatMap((device) =>
      device.role !== "cloud"
        ? []
        : context
            .deviceOf(device)
            .policyTables.filter((table) => !table.match.in?.length && !table.match.from?.length)
            .map((table) => ({
              device: device.id,
              subject: table.name,
              text: `The table ${table.name} of ${device.id} is not attached to any subnet, so it has no effect.`,
              evidence: table.routes.map((route) => ({
                kind: "route" as const,
                device: device.id,
                to: route.to,
                via: route.via ?? null,
                out: route.out ?? null,
              })),
            })),
    ),
};
