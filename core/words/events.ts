import { formatAddress, formatPrefix } from "../address/index.ts";
import { destinationOf, formatElement, interfaceName, type Network, viaOf } from "../network/index.ts";
import type { SimulationEvent } from "../timeline/index.ts";
import type { GatewayRecord } from "../walk/index.ts";

/** What happened in an outage, in a sentence. */
export function eventText(
  network: Network,
  gateways: readonly GatewayRecord[],
  flowIds: readonly string[],
  what: SimulationEvent,
): string {
  switch (what.kind) {
    case "fail":
      return `${formatElement(network, what.element)} fails`;
    case "shut":
      return `${formatElement(network, what.element)} is shut down`;
    case "virtual": {
      const { interface: i, id } = network.virtuals[what.virtual];
      return `virtual router ${id} on ${interfaceName(network, i)} ${what.active ? "becomes Active" : "is no longer Active"}`;
    }
    case "member": {
      const { id, members } = network.pairs[what.pair];
      const device = network.devices[members[what.member]].id;
      return `${device} ${what.active ? "takes over as the active member" : "is no longer the active member"} of the pair ${id}`;
    }
    case "restore":
      return `${formatElement(network, what.element)} is restored`;
    case "interface":
      return `interface ${interfaceName(network, what.interface)} goes ${what.up ? "up" : "down"}`;
    case "watch": {
      const record = network.watches[what.watch];
      return `watch ${network.devices[record.device].id}/${record.watch.id} goes ${what.up ? "up" : "down"}`;
    }
    case "neighbour": {
      const { candidates, devices } = network;
      const via = viaOf(network, what.candidate);
      const who = via ? formatAddress(via) : "its neighbour";
      const id = devices[candidates.device[what.candidate]].id;
      const route = formatPrefix(destinationOf(network, what.candidate));
      return what.up ? `${id} uses ${who} again for ${route}` : `${id} no longer uses ${who} for ${route}`;
    }
    case "forgotten": {
      const at = interfaceName(network, what.interface);
      return what.forgotten
        ? `${at} can no longer resolve its neighbors: it receives nothing`
        : `${at} resolves its neighbors again`;
    }
    case "flow": {
      const carriers = what.carriers.map((g) => gateways[g].id).join(", ");
      const state = {
        works: "works",
        "one-way": "gets no reply",
        fails: "does not arrive",
        unknown: "leaves the modeled network",
      }[what.verdict];
      return `flow ${flowIds[what.flow]} ${state}${what.verdict === "works" && carriers ? `, carried by ${carriers}` : ""}`;
    }
    case "flapping":
      return `it does not settle: watches flap${what.periodMs === null ? "" : ` every ${what.periodMs / 1000} s`}`;
  }
}
