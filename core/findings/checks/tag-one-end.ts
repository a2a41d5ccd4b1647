import { endsOf, interfaceName } from "../../network/index.ts";
import type { Check } from "../check.ts";

/** A cable that joins unlike tags, or a tag and none: nothing passes (rule 15.3). */
export const tagOneEnd: Check = {
  code: "tag-one-end",
  title: "VLAN tags differ between the ends of a cable",
  consequence: "lost",
  severity: "error",
  run: ({ network }) =>
    network.links.crossed.map((link) => {
      const ends = Array.from(endsOf(network.links, link));
      const tags = ends.map((end) => {
        const vlan = network.interfaces.vlan[end];
        return `${interfaceName(network, end)} ${vlan ? `has the tag ${vlan}` : "has no tag"}`;
      });
      return {
        device: network.devices[network.interfaces.device[ends[0]]].id,
        subject: network.links.ids[link],
        text: `The cable ${network.links.ids[link]} joins different VLAN tags: ${tags.join(", ")}. No traffic passes.`,
        evidence: ends.map((end) => ({ kind: "interface" as const, interface: interfaceName(network, end) })),
      };
    }),
};
