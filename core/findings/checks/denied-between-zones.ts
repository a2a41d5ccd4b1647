import { formatAddress } from "../../address/index.ts";
import { dropText } from "../../words/index.ts";
import type { Check } from "../check.ts";

/** A flow that a policy between zones refuses. */
export const deniedBetweenZones: Check = {
  code: "denied-between-zones",
  title: "A policy denies a flow",
  consequence: "lost",
  severity: "error",
  run: (context) =>
    context.flows.flatMap(({ flow, trip }) => {
      const { drop } = trip.worst.outbound;
      if (drop?.code !== "policy-denied" || !drop.packet || !drop.zones) return [];
      const device = context.network.devices[drop.device];
      const { policy } = context.deviceOf(device);
      const [from, to] = drop.zones;
      const bits = drop.packet.destination.family === 4 ? 32 : 128;
      const rule = {
        ...(from ? { from: [from] } : {}),
        ...(to ? { to: [to] } : {}),
        action: "allow" as const,
        destination: [`${formatAddress(drop.packet.destination)}/${bits}`],
        protocol: drop.packet.protocol,
        ...(drop.packet.port ? { port: String(drop.packet.port) } : {}),
      };
      const {
        interfaces: _i,
        routes: _r,
        learned: _l,
        policyTables: _t,
        sourceNat: _n,
        watches: _w,
        ...before
      } = context.deviceOf(device);
      const after = { ...before, policy: { ...policy, rules: [rule, ...(policy?.rules ?? [])] } };
      return [
        {
          device: device.id,
          subject: flow.id,
          text: `Flow ${flow.id} is refused: ${dropText(context.healthy.state, trip.worst.outbound, drop)}.`,
          evidence: [{ kind: "path" as const, flow: flow.id, failed: [] }],
          fixes: [
            {
              label: `Allow ${flow.id} on ${device.label}`,
              changes: [{ in: "device-settings" as const, device: device.id, before, after }],
            },
          ],
        },
      ];
    }),
};
