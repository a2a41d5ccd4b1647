import { formatAddress } from "../../address/index.ts";
import { findNeighbour } from "../../network/index.ts";
import { sessionPartner } from "../../settle/index.ts";
import type { Check } from "../check.ts";
import { addWatch } from "../context.ts";
import { freshName } from "../fixes/bfd.ts";

/** A BFD session that the far end does not hold: it never comes up (rule 9.2). */
export const bfdOneEnd: Check = {
  code: "bfd-one-end",
  title: "A BFD session is configured on one end only",
  consequence: "inactive",
  severity: "error",
  run: (context) =>
    context.network.watches.flatMap((record) => {
      const { watch } = record;
      if (watch.kind !== "bfd" || sessionPartner(context.network, record)) return [];
      const { network } = context;
      const here = network.devices[record.device];
      const { port, peer } = record;
      const far = peer ? findNeighbour(context.healthy.state, port, peer) : null;
      const own = peer && context.addressOnLink(record.device, network.interfaces.link[port], peer.family);
      const fixes = [];
      if (far && far.interface >= 0 && own) {
        const device = network.devices[network.interfaces.device[far.interface]];
        const taken = context.deviceOf(device).watches.map((w) => w.id);
        const session = {
          ...watch,
          id: freshName(watch.id, taken),
          interface: network.interfaces.names[far.interface],
          peer: formatAddress(own.address),
        };
        fixes.push({
          label: `Configure the session on ${device.label} too`,
          changes: [addWatch(device.id, session)],
        });
      }
      return [
        {
          device: here.id,
          subject: watch.id,
          text: `The BFD session ${watch.id} of ${here.id} with ${watch.peer} is configured on this end only, so it never comes up.`,
          evidence: [{ kind: "watch" as const, watch: `${here.id}/${watch.id}` }],
          fixes,
        },
      ];
    }),
};
