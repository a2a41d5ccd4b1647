import { interfaceName, interfaceWritten } from "../../network/index.ts";
import type { Check } from "../check.ts";

/** Members of one bundle of unlike speed or medium: the slower fills, or some fail unnoticed (rule 15.3). */
export const bundleMembersDiffer: Check = {
  code: "bundle-members-differ",
  title: "Members of a bundle differ in speed or medium",
  consequence: "on-failure",
  severity: "warning",
  run: (context) => {
    const { network } = context;
    const { interfaces, plan } = network;
    return network.bundles.flatMap((bundle) => {
      const of = (m: number) => {
        const link = interfaces.link[m];
        return {
          medium: plan.links[link]?.medium ?? null,
          mbps: plan.links[link]?.mbps ?? interfaceWritten(network, m).mbps ?? null,
        };
      };
      const drawn = bundle.members.filter(
        (m) => interfaces.link[m] >= 0 && interfaces.link[m] < plan.links.length,
      );
      const unlike = (["medium", "mbps"] as const).filter(
        (key) => new Set(drawn.map((m) => of(m)[key])).size > 1,
      );
      if (unlike.length === 0) return [];
      const device = network.devices[interfaces.device[bundle.interface]].id;
      const parts = drawn.map(
        (m) => `${interfaces.names[m]} ${unlike.map((key) => of(m)[key] ?? "unknown").join(", ")}`,
      );
      return [
        {
          device,
          subject: interfaces.names[bundle.interface],
          text: `The members of the bundle ${interfaces.names[bundle.interface]} of ${device} differ in ${unlike.map((key) => (key === "mbps" ? "speed (Mbit/s)" : "medium")).join(" and ")}: ${parts.join("; ")}.`,
          evidence: [{ kind: "interface" as const, interface: interfaceName(network, bundle.interface) }],
        },
      ];
    });
  },
};
