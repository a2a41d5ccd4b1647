import { interfaceName } from "../../network/index.ts";
import type { Check } from "../check.ts";

/** A tunnel whose underlay resolves through the tunnel itself: it is down (rule 2.5). */
export const tunnelThroughItself: Check = {
  code: "tunnel-through-itself",
  title: "A tunnel is routed through itself",
  consequence: "inactive",
  severity: "error",
  run: (context) =>
    [...context.engine.healthy.selfTunnels].map((t) => {
      const { interface: i } = context.network.tunnels[t];
      const name = interfaceName(context.network, i);
      return {
        device: context.network.devices[context.network.interfaces.device[i]].id,
        subject: context.network.interfaces.names[i],
        text: `The path to the far end of tunnel ${name} leads through the tunnel itself, so the tunnel is down.`,
        evidence: [{ kind: "interface" as const, interface: name }],
      };
    }),
};
