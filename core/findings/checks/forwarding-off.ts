import type { Family } from "../../address/index.ts";
import { settingsOf } from "../../plan/index.ts";
import type { Check } from "../check.ts";

/** Routes of a family that the device does not forward (rule 4.8). */
export const forwardingOff: Check = {
  code: "forwarding-off",
  title: "Forwarding is off on a device with routes",
  consequence: "inactive",
  severity: "error",
  run: (context) =>
    context.network.devices.flatMap((device) =>
      ([4, 6] as const).flatMap((family: Family) => {
        const routes = context.routes
          .of(device.index)
          .filter((w) => w.reason === "forwarding-off" && w.to.address.family === family);
        if (routes.length === 0) return [];
        const before = settingsOf(context.deviceOf(device));
        const after = { ...before, forwarding: { ...before.forwarding, [`ipv${family}`]: true } };
        return [
          {
            device: device.id,
            subject: `IPv${family}`,
            text: `${device.id} has ${routes.length} IPv${family} ${routes.length === 1 ? "route" : "routes"}, but its IPv${family} forwarding is off, so none is active.`,
            evidence: routes.slice(0, 5).map((w) => context.routeEvidence(w)),
            fixes: [
              {
                label: `Turn IPv${family} forwarding on at ${device.label}`,
                changes: [{ in: "device-settings" as const, device: device.id, before, after }],
              },
            ],
          },
        ];
      }),
    ),
};
