import { interfaceName } from "../../network/index.ts";
import { readTunnel } from "../../settle/index.ts";
import type { Check } from "../check.ts";

/** A tunnel whose outer packets its device routes into the tunnel itself: it is down, or loses them (rule 2.5). */
export const tunnelThroughItself: Check = {
  code: "tunnel-through-itself",
  title: "A tunnel is routed through itself",
  consequence: "inactive",
  severity: "error",
  run: (context) =>
    context.network.tunnels.flatMap((tunnel) => {
      const { healthy } = context.engine;
      const down = healthy.selfTunnels.has(tunnel.index);
      if (!down && !readTunnel(healthy.world, tunnel).leadsIntoItself) return [];
      const { interface: i } = tunnel;
      const name = interfaceName(context.network, i);
      return {
        device: context.network.devices[context.network.interfaces.device[i]].id,
        subject: context.network.interfaces.names[i],
        text: `The route to the far end of tunnel ${name} leads through the tunnel itself, so ${down ? "the tunnel is down (a device may bring it up and down again and again)" : "its packets are lost"}.`,
        evidence: [{ kind: "interface" as const, interface: name }],
      };
    }),
};
