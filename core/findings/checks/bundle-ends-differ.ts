import { endsOf, interfaceName } from "../../network/index.ts";
import type { Check } from "../check.ts";

/** Members of one bundle that lead to different devices, or to no bundle: traffic sent on them is lost (rule 15.3). */
export const bundleEndsDiffer: Check = {
  code: "bundle-ends-differ",
  title: "Members of a bundle lead to different devices",
  consequence: "lost",
  severity: "error",
  run: (context) => {
    const { network } = context;
    const { interfaces, links, devices, bundles } = network;
    return bundles.flatMap((bundle) => {
      const astray = bundle.members.filter(
        (m, n) => interfaces.link[m] >= 0 && !bundle.blind[n] && bundle.leads[n].length === 0,
      );
      if (astray.length === 0) return [];
      const device = devices[interfaces.device[bundle.interface]].id;
      const leads = astray.map((m) => {
        const far = Array.from(endsOf(links, interfaces.link[m])).filter((end) => end !== m);
        return `${interfaces.names[m]} leads to ${far.map((end) => interfaceName(network, end)).join(" and ")}`;
      });
      return [
        {
          device,
          subject: interfaces.names[bundle.interface],
          text: `The members of the bundle ${interfaces.names[bundle.interface]} of ${device} do not all lead to the same device: ${leads.join(", ")}. Traffic on these members is lost.`,
          evidence: [{ kind: "interface" as const, interface: interfaceName(network, bundle.interface) }],
        },
      ];
    });
  },
};
